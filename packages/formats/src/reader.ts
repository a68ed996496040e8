import { FormatError } from './codec';

/** Reads numbers of a file; reading past its end says that the file is cut off, and where. */
export class Reader {
  private readonly view: DataView;

  constructor(
    readonly bytes: Uint8Array,
    public little = true,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  get length(): number {
    return this.bytes.length;
  }

  /** @throws FormatError `truncated` when `count` bytes at `at` are not there */
  need(at: number, count: number): number {
    if (!(at >= 0 && at + count <= this.length)) throw new FormatError('truncated', 'the file ends inside its header. Export it again', this.length);
    return at;
  }
  u8 = (at: number): number => this.bytes[this.need(at, 1)];
  u16 = (at: number): number => this.view.getUint16(this.need(at, 2), this.little);
  u32 = (at: number): number => this.view.getUint32(this.need(at, 4), this.little);
  i32 = (at: number): number => this.view.getInt32(this.need(at, 4), this.little);
  /** An unsigned 64-bit number; past 2⁵³ it is no offset of a file. */
  u64(at: number): number {
    const value = Number(this.view.getBigUint64(this.need(at, 8), this.little));
    if (value > Number.MAX_SAFE_INTEGER) throw new FormatError('corrupt', 'a number of its header is too large. Export it again', at);
    return value;
  }
  /** ASCII. */
  text = (at: number, count: number): string => String.fromCharCode(...this.bytes.subarray(this.need(at, count), at + count));
  /** ASCII up to a zero byte, at most `most` characters. */
  zeroEnded(at: number, most = 255): string {
    for (let end = at; end < at + most; end++) if (this.u8(end) === 0) return this.text(at, end - at);
    throw new FormatError('corrupt', 'a name in its header has no end. Export it again', at);
  }
}

export const corrupt = (what: string, byte: number): FormatError => new FormatError('corrupt', `${what}. Export it again`, byte);
export const unsupported = (what: string, byte?: number): FormatError => new FormatError('unsupported', what, byte);
