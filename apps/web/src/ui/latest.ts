// Work of which only the latest counts. Three ways, one place: what waits in turn, what is dropped at once, what is known by a key.

/** Asks for one thing at a time; of those wanted meanwhile only the last is asked for. */
export class Latest<T> {
  private busy = false;
  private next: (() => Promise<T>) | null = null;

  constructor(
    private readonly take: (result: T) => void,
    private readonly fail: (error: Error) => void,
  ) {}

  ask(make: () => Promise<T>): void {
    this.next = make;
    if (!this.busy) void this.run();
  }

  private async run(): Promise<void> {
    this.busy = true;
    while (this.next) {
      const make = this.next;
      this.next = null;
      try {
        this.take(await make());
      } catch (error) {
        this.fail(error as Error);
      }
    }
    this.busy = false;
  }
}

/** Runs that end each other. */
export class Newest {
  private run = 0;

  /** Begins a run; what it gives says whether no other has begun since, nor all been ended. */
  begin(): () => boolean {
    const mine = ++this.run;
    return () => mine === this.run;
  }
  /** Nothing that is under way counts any more. */
  end = (): void => void this.run++;
}

/** After so long something that failed is tried again when it is asked for. */
const AGAIN_MS = 4000;

/** What is made elsewhere, under a name: asked for once a key, and taken only while that key is still the one that is wanted. */
export class ByKey {
  private readonly keys = new Map<string, string>();

  constructor(private readonly fail: (error: Error) => void) {}

  /** Does nothing where that is asked for already, or there. What failed is said once, and may be asked for again a while later. */
  ask<T>(name: string, key: string, make: () => Promise<T>, take: (made: T) => void): void {
    if (this.keys.get(name) === key) return;
    this.keys.set(name, key);
    make().then(
      (made) => this.keys.get(name) === key && take(made),
      (error: Error) => {
        if (this.keys.get(name) !== key) return;
        // Whoever pans or draws asks many times a second.
        setTimeout(() => this.keys.get(name) === key && this.keys.delete(name), AGAIN_MS);
        this.fail(error);
      },
    );
  }
  has = (name: string): boolean => this.keys.has(name);
  /** It is there without having been asked for. */
  set = (name: string, key: string): void => void this.keys.set(name, key);
  forget = (name: string): void => void this.keys.delete(name);
}
