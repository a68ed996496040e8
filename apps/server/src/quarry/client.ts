import type { QuarryFiles, QuarryPage } from '@pebble/contracts';
import { QUARRY_FILES_SCHEMA, QUARRY_PAGE_SCHEMA, shapeProblem } from '@pebble/contracts';
import { probeImage, sha256 } from '@pebble/formats';

/** What went wrong with the quarry, for people. `transient`: another try may work. */
export class QuarryError extends Error {
  constructor(
    message: string,
    readonly transient = false,
  ) {
    super(message);
    this.name = 'QuarryError';
  }
}

/** Most bytes of an answer that is text, and of a preview. */
const MAX_TEXT = 2 ** 20;
const MAX_PREVIEW = 2 ** 19;
/** Silence after which a line counts as dead, and tries of one file. */
const SILENCE_MS = 30_000;
export const TRIES = 5;

/**
 * Talks to the quarry, which may be anybody: only to its own address and never where it points to, no more bytes than
 * announced, no longer silence than a limit, nothing taken that is not of the shape agreed on.
 */
export class Quarry {
  constructor(
    private readonly base: string,
    private readonly pauseMs = 300,
  ) {}

  search = (text: string, tag: string, page: number): Promise<QuarryPage> =>
    this.json(`/surfaces?${new URLSearchParams({ text, tag, page: String(page) }).toString()}`, QUARRY_PAGE_SCHEMA);

  files = (id: string, size: number): Promise<QuarryFiles> => this.json(`/surfaces/${encodeURIComponent(id)}/${size}`, QUARRY_FILES_SCHEMA);

  /** The picture of a surface; only a PNG of a modest size is one. */
  async preview(id: string): Promise<Uint8Array> {
    const bytes = await this.bytes(`/surfaces/${encodeURIComponent(id)}/preview.png`, MAX_PREVIEW);
    const facts = (() => {
      try {
        return probeImage(bytes);
      } catch {
        return null;
      }
    })();
    if (facts?.format !== 'png' || facts.width > 1024 || facts.height > 1024) throw new QuarryError('The quarry sent a preview that is no small PNG');
    return bytes;
  }

  /**
   * One file, tried anew when the line fails. `report` hears the share of its bytes and the try.
   * @throws QuarryError when it does not come whole and right in five tries
   */
  async download(
    id: string,
    size: number,
    file: QuarryFiles['files'][number],
    report: (share: number, attempt: number) => void,
  ): Promise<Uint8Array> {
    const route = `/surfaces/${encodeURIComponent(id)}/${size}/${file.name}`;
    for (let attempt = 1; ; attempt++) {
      try {
        const bytes = await this.bytes(route, file.bytes, (got) => report(got / file.bytes, attempt));
        if (bytes.length !== file.bytes) throw new QuarryError(`${file.name} came incomplete`, true);
        if ((await sha256(bytes)) !== file.sha256) throw new QuarryError(`${file.name} is not what the quarry announced`, true);
        return bytes;
      } catch (error) {
        if (!(error instanceof QuarryError && error.transient)) throw error;
        if (attempt === TRIES) throw new QuarryError(`${file.name} could not be fetched in ${TRIES} tries: ${error.message}. Try again later`);
        await new Promise((resolve) => setTimeout(resolve, this.pauseMs * 2 ** (attempt - 1)));
      }
    }
  }

  private async json<T>(route: string, schema: object): Promise<T> {
    const bytes = await this.bytes(route, MAX_TEXT);
    let body: unknown;
    try {
      body = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
    } catch {
      throw new QuarryError('The quarry sent an answer that is no JSON');
    }
    const problem = shapeProblem(schema, body);
    if (problem) throw new QuarryError(`The quarry sent an answer of another shape (${problem})`);
    return body as T;
  }

  /** An answer of at most so many bytes. */
  private async bytes(route: string, most: number, heard: (got: number) => void = () => undefined): Promise<Uint8Array> {
    const silence = new AbortController();
    let timer = setTimeout(() => silence.abort(), SILENCE_MS);
    const alive = () => {
      clearTimeout(timer);
      timer = setTimeout(() => silence.abort(), SILENCE_MS);
    };
    try {
      const answer = await fetch(new URL(route, this.base), { redirect: 'error', signal: silence.signal });
      if (answer.status === 404) throw new QuarryError('The quarry does not have this any longer');
      if (!answer.ok || !answer.body) throw new QuarryError(`the quarry answered ${answer.status}`, true);
      const parts: Uint8Array[] = [];
      let got = 0;
      for await (const part of answer.body as unknown as AsyncIterable<Uint8Array>) {
        alive();
        got += part.length;
        if (got > most) throw new QuarryError(`The quarry sent more than the ${most} bytes agreed on`);
        parts.push(part);
        heard(got);
      }
      return Buffer.concat(parts);
    } catch (error) {
      if (error instanceof QuarryError) throw error;
      throw new QuarryError(silence.signal.aborted ? 'the quarry fell silent' : 'the line to the quarry broke', true);
    } finally {
      clearTimeout(timer);
      silence.abort();
    }
  }
}
