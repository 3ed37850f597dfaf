declare module '@fontsource/*';
declare module 'draco3dgltf' {
  const draco: { createDecoderModule(): Promise<unknown> };
  export default draco;
}
