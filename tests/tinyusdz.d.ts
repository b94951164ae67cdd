declare module 'tinyusdz' {
  /** The module compiled from C++; its loader reads bytes as the file name's ending says. */
  export default function create(given: { wasmBinary: Uint8Array }): Promise<{
    TinyUSDZLoaderNative: new () => {
      loadFromBinary: (bytes: Uint8Array, name: string) => boolean
      error: () => string
    }
  }>
}
