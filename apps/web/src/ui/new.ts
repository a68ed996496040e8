/** A key for something new in a collection. It begins with a letter: objects list keys of digits alone before all others. */
export const newKey = (): string => `k${crypto.randomUUID().slice(0, 8)}`;
export const newSeed = (): number => Math.floor(Math.random() * 0xffffff);
