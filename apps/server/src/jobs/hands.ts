import { fork } from 'node:child_process';
import { Worker } from 'node:worker_threads';
import type { WorkerJob, WorkerMessage, WorkerStart } from './protocol';

/** Megabytes of its own heap that a job may take. */
const MEMORY_MB = 4096;

/** Where a job is done: a thread of this process, which is quick to have, or a process for itself, which alone dies with it. */
export interface Hand {
  /** Which database it was started on. */
  readonly databaseUrl: string;
  readonly apart: boolean;
  begin(job: WorkerJob): void;
  /** Hears of one job: what it tells, that it broke, and that it ended (`ours`: because we wanted that). Gives what ends hearing. */
  hear(on: { message(message: WorkerMessage): void; error(error: Error): void; exit(ours: boolean): void }): () => void;
  end(): Promise<unknown>;
}

export function thread(file: string, start: WorkerStart): Hand {
  const worker = new Worker(file, { workerData: start, resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB } });
  return handOf(worker, start, false, { begin: (job) => worker.postMessage(job), end: () => worker.terminate() });
}

export function ownProcess(file: string, start: WorkerStart): Hand {
  // In a session of its own: what ends us by the keyboard must not look like a death by its job. It goes when we go.
  const child = fork(file, [], {
    detached: true,
    serialization: 'advanced',
    execArgv: [`--max-old-space-size=${MEMORY_MB}`],
    env: { ...process.env, PEBBLE_WORK: JSON.stringify(start) },
  });
  const gone = new Promise((resolve) => child.once('exit', resolve));
  return handOf(child, start, true, {
    // One that died already is heard of by its exit.
    begin: (job) => void child.send(job, () => undefined),
    end: () => {
      child.kill('SIGKILL');
      return gone;
    },
  });
}

function handOf(of: NodeJS.EventEmitter, { databaseUrl }: WorkerStart, apart: boolean, { begin, end }: Pick<Hand, 'begin' | 'end'>): Hand {
  let ours = false;
  return {
    databaseUrl,
    apart,
    begin,
    end: () => {
      ours = true;
      return end();
    },
    hear({ message, error, exit }) {
      const ended = () => exit(ours);
      of.on('message', message).on('error', error).on('exit', ended);
      return () => void of.off('message', message).off('error', error).off('exit', ended);
    },
  };
}
