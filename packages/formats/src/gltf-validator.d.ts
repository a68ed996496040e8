declare module 'gltf-validator' {
  /** Severity 0 error, 1 warning, 2 information, 3 hint. */
  interface Report {
    issues: { messages: { code: string; message: string; severity: number; pointer?: string }[] };
  }
  export function validateBytes(bytes: Uint8Array, options?: object): Promise<Report>;
}
