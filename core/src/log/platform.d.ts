/** The one thing core takes from the platform: text decoding, present in browsers and Node alike. */
declare class TextDecoder {
  constructor(label?: string, options?: { fatal?: boolean; ignoreBOM?: boolean });
  decode(input?: Uint8Array): string;
}
