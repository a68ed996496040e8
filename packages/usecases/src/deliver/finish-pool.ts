// Threads that write files while the next are worked out. Node only.
import { Worker } from 'node:worker_threads';
import type { FinishWork, FinishedFile } from '../ports';

interface Waiting {
  resolve: (file: FinishedFile) => void;
  reject: (error: Error) => void;
}
interface Thread {
  worker: Worker;
  waiting: Map<number, Waiting>;
}

/** Threads start when they are first needed, and hold nobody up who is about to end. */
export class FinishPool {
  private readonly threads: Thread[] = [];
  private next = 0;

  constructor(
    private readonly workerFile: string,
    private readonly count: number,
  ) {}

  readonly finish = (work: FinishWork): Promise<FinishedFile> =>
    new Promise((resolve, reject) => {
      const thread = this.free();
      const id = this.next++;
      thread.worker.ref();
      thread.waiting.set(id, { resolve, reject });
      thread.worker.postMessage({ id, work });
    });

  /** The thread with the least to do; another while there may be more. */
  private free(): Thread {
    const idle = this.threads.find((t) => !t.waiting.size);
    if (idle) return idle;
    if (this.threads.length < this.count) return this.start();
    return this.threads.reduce((a, b) => (b.waiting.size < a.waiting.size ? b : a));
  }

  private start(): Thread {
    const worker = new Worker(this.workerFile);
    const thread: Thread = { worker, waiting: new Map() };
    const settle = (id: number): Waiting | undefined => {
      const one = thread.waiting.get(id);
      thread.waiting.delete(id);
      if (!thread.waiting.size) worker.unref();
      return one;
    };
    worker.on('message', ({ id, file, error }: { id: number; file?: FinishedFile; error?: string }) => {
      if (file) settle(id)?.resolve(file);
      else settle(id)?.reject(new Error(error));
    });
    const lost = (error: Error) => {
      this.threads.splice(this.threads.indexOf(thread), 1);
      [...thread.waiting.values()].forEach((w) => w.reject(error));
      thread.waiting.clear();
    };
    worker.on('error', lost);
    worker.on('exit', (code) => thread.waiting.size && lost(new Error(`A thread that wrote files ended (${code})`)));
    worker.unref();
    this.threads.push(thread);
    return thread;
  }
}
