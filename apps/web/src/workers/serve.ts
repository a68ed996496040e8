/// <reference lib="webworker" />

/** Kinds of requests that a worker answers: what is asked with, what comes back. */
export type Requests = Record<string, { args: unknown; result: unknown }>;
export type Handlers<R> = {
  [K in keyof R]: R[K] extends { args: infer A; result: infer T } ? (args: A) => Promise<{ result: T; transfer: Transferable[] }> : never;
};

/** Answers requests of a `WorkerClient`, each by its kind. */
export function serve<R>(handlers: Handlers<R>): void {
  addEventListener('message', ({ data }: MessageEvent<{ id: number; kind: keyof R; args: never }>) => {
    (handlers[data.kind] as (args: never) => Promise<{ result: unknown; transfer: Transferable[] }>)(data.args).then(
      ({ result, transfer }) => postMessage({ id: data.id, result }, { transfer }),
      (error: Error) => postMessage({ id: data.id, error: error.message }),
    );
  });
}
