declare module 'draco3dgltf' {
  const library: { createDecoderModule(options: object): Promise<unknown>; createEncoderModule(options: object): Promise<unknown> };
  export default library;
}
