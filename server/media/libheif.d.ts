declare module 'libheif-js/wasm-bundle.js' {
  interface HeifImage {
    get_width(): number;
    get_height(): number;
    /** Fills `data` with RGBA; answers null when it cannot be decoded. */
    display(
      into: { data: Uint8ClampedArray; width: number; height: number },
      done: (filled: { data: Uint8ClampedArray } | null) => void,
    ): void;
    is_primary(): boolean;
    free(): void;
  }
  const library: { HeifDecoder: new () => { decode(bytes: Uint8Array): HeifImage[] } };
  export default library;
}
