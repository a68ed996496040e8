/** Ends the present task, so that input and frames come between. */
export const breathe = (): Promise<void> => new Promise((resolve) => setTimeout(resolve));

/** A task that the page does in one go is no longer than about this. */
const SLICE_MS = 10;

/** Does something with every item in turn, in slices the page does not feel; stops before the next item once told to. */
export async function inSlices<T>(items: Iterable<T>, work: (item: T) => void, over: () => boolean = () => false): Promise<void> {
  let began = performance.now();
  for (const item of items) {
    if (performance.now() - began > SLICE_MS) {
      await breathe();
      began = performance.now();
    }
    if (over()) return;
    work(item);
  }
}
