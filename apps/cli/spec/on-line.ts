import { run } from '../src/commands';

/** The command line in a folder, as specs use it. @param dir known once it was made */
export function onLine(dir: () => string) {
  /** What the last call printed. */
  const printed: string[] = [];
  const jaunty = (...args: string[]): Promise<void> => {
    printed.length = 0;
    return run(args, dir(), (text) => printed.push(text));
  };
  /** What a call fails with, which it has to. */
  const problem = (...args: string[]): Promise<Error> =>
    jaunty(...args).then(
      () => fail('nothing was thrown') as never,
      (e: Error) => e,
    );
  return { printed, jaunty, problem };
}
