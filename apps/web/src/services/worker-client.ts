/** Asks a worker that answers with `serve`, and starts another when it breaks. */
export class WorkerClient<R> {
  private worker: Worker | null = null;
  private next = 0;
  private readonly waiting = new Map<number, { resolve: (v: never) => void; reject: (e: Error) => void }>();

  constructor(private readonly make: () => Worker) {}

  /** Requests that wait for an answer. */
  get busy(): number {
    return this.waiting.size;
  }

  run<K extends keyof R>(kind: K, args: R[K] extends { args: infer A } ? A : never): Promise<R[K] extends { result: infer T } ? T : never> {
    return new Promise((resolve, reject) => {
      const id = this.next++;
      this.waiting.set(id, { resolve, reject });
      this.get().postMessage({ id, kind, args });
    });
  }

  /** Ends the worker; whoever still waits is told so, which nobody has to be shown. */
  end(): void {
    this.worker?.terminate();
    this.lose(new DOMException('The worker was ended', 'AbortError'));
  }

  private lose(error: Error): void {
    const waiting = [...this.waiting.values()];
    this.waiting.clear();
    this.worker = null;
    waiting.forEach((w) => w.reject(error));
  }

  private get(): Worker {
    if (this.worker) return this.worker;
    const worker = this.make();
    worker.onmessage = ({ data }: MessageEvent<{ id: number; result?: unknown; error?: string }>) => {
      const waiting = this.waiting.get(data.id);
      this.waiting.delete(data.id);
      if (data.error !== undefined) waiting?.reject(new Error(data.error));
      else waiting?.resolve(data.result as never);
    };
    worker.onerror = (event) => this.lose(new Error(event.message || 'The worker stopped'));
    worker.onmessageerror = () => this.lose(new Error('The worker sent what cannot be read'));
    return (this.worker = worker);
  }
}

/** Several workers of a kind, for requests that know nothing of each other: each goes to the one that has least to do. */
export class WorkerPool<R> {
  private readonly clients: readonly WorkerClient<R>[];

  constructor(make: () => Worker, count: number) {
    this.clients = Array.from({ length: count }, () => new WorkerClient<R>(make));
  }

  run: WorkerClient<R>['run'] = (kind, args) => this.clients.reduce((a, b) => (b.busy < a.busy ? b : a)).run(kind, args);
}
