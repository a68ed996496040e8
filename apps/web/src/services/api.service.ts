import { Injectable } from '@angular/core';
import type { Problem } from '@pebble/contracts';

/** An answer that is a problem document, or no answer at all (`status` 0). */
export class ApiError extends Error {
  constructor(
    readonly problem: Problem,
    readonly status: number,
  ) {
    super(problem.detail);
    this.name = 'ApiError';
  }
  /** Whether the same request may work later: only an answer that has something against the request itself will not change. */
  get transient(): boolean {
    return this.status === 0 || this.status >= 500 || this.status === 408 || this.status === 425 || this.status === 429;
  }
}

const away: Problem = {
  type: 'about:blank',
  title: 'Offline',
  status: 0,
  code: 'offline',
  detail: 'The server does not answer. Is it still running? Edits are kept and sent when it is back',
};

/** Requests to the server of this page. */
@Injectable({ providedIn: 'root' })
export class ApiService {
  get = <T>(path: string): Promise<T> => this.send<T>('GET', path);
  post = <T>(path: string, body?: unknown): Promise<T> => this.send<T>('POST', path, body);
  delete = (path: string): Promise<void> => this.send<void>('DELETE', path);

  /** Uploads files as they are; `onProgress` hears 0–1 of the bytes sent. */
  upload<T>(files: readonly File[], onProgress: (done: number) => void, signal: AbortSignal): Promise<T> {
    // fetch cannot tell how far an upload is.
    return new Promise((resolve, reject) => {
      const form = new FormData();
      files.forEach((file) => form.append('files', file, file.name));
      const request = new XMLHttpRequest();
      request.open('POST', '/api/uploads');
      request.responseType = 'json';
      request.upload.onprogress = (e) => onProgress(e.total ? e.loaded / e.total : 0);
      request.onload = () =>
        request.status < 300 ? resolve(request.response as T) : reject(new ApiError((request.response as Problem) ?? away, request.status));
      request.onerror = () => reject(new ApiError({ ...away, detail: 'The upload was cut off. Nothing of it was kept; drop the files again' }, 0));
      request.onabort = () => reject(new DOMException('Upload cancelled', 'AbortError'));
      signal.addEventListener('abort', () => request.abort());
      request.send(form);
    });
  }

  private async send<T>(method: string, path: string, body?: unknown): Promise<T> {
    let response: Response;
    try {
      response = await fetch(`/api${path}`, {
        method,
        headers: body === undefined ? {} : { 'content-type': 'application/json' },
        body: body === undefined ? undefined : JSON.stringify(body),
      });
    } catch {
      throw new ApiError(away, 0);
    }
    if (response.status === 204) return undefined as T;
    const json: unknown = await response.json().catch(() => null);
    if (!response.ok)
      throw new ApiError(
        (json as Problem) ?? { ...away, status: response.status, detail: `The server answered ${response.status}` },
        response.status,
      );
    return json as T;
  }
}
