declare module 'upng-js' {
  const upng: { decode(buffer: ArrayBuffer): { width: number; height: number }; toRGBA8(image: unknown): ArrayBuffer[] };
  export default upng;
}
