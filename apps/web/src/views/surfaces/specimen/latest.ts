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
