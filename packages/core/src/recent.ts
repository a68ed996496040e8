/** The most recently used of some things by key: what has not been asked for longest goes first. */
export class Recent<K, V> {
  private readonly kept = new Map<K, V>();

  constructor(
    private readonly most: number,
    private readonly released: (value: V, key: K) => void = () => undefined,
  ) {}

  get(key: K): V | undefined {
    const found = this.kept.get(key);
    if (found !== undefined) this.set(key, found);
    return found;
  }
  has = (key: K): boolean => this.kept.has(key);
  set(key: K, value: V): V {
    this.kept.delete(key);
    this.kept.set(key, value);
    if (this.kept.size > this.most) {
      const [[first, old]] = this.kept;
      this.kept.delete(first);
      this.released(old, first);
    }
    return value;
  }
  forget = (key: K): void => void this.kept.delete(key);
  /** What is kept under a key, made when it is not there. */
  of = (key: K, make: () => V): V => this.get(key) ?? this.set(key, make());
}
