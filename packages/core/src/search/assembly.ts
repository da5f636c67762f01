/** What is used of WebAssembly: its types come with those of the DOM, which core does without. */
interface Assembly {
  readonly Module: new (bytes: Uint8Array) => object;
  readonly Instance: new (module: object, imports?: { larder: { memory: Memory } }) => { readonly exports: object };
  readonly Memory: new (size: { initial: number }) => Memory;
  validate(bytes: Uint8Array): boolean;
}

/** A block of memory that WebAssembly works in. */
export interface Memory {
  readonly buffer: ArrayBuffer;
  grow(pages: number): number;
}

export const PAGE_BYTES = 65_536;

const assembly = (globalThis as { readonly WebAssembly?: Assembly }).WebAssembly;

/** Makes instances of what some code says, all of one module that is made when it is first wanted. */
export class AssemblyCode {
  private module: object | null | undefined;

  /** @param code the bytes in base64, as `scripts/wasm.mjs` writes them */
  constructor(private readonly code: string) {}

  /** What one exports; null where there is no WebAssembly, or none with vectors. */
  instance(memory?: Memory): object | null {
    if (this.module === undefined) {
      const bytes = Uint8Array.from(atob(this.code), (letter) => letter.charCodeAt(0));
      this.module = assembly?.validate(bytes) ? new assembly.Module(bytes) : null;
    }
    if (!assembly || !this.module) return null;
    return new assembly.Instance(this.module, memory && { larder: { memory } }).exports;
  }

  /** An empty block of one page; null where there is no WebAssembly. */
  static memory(): Memory | null {
    return assembly ? new assembly.Memory({ initial: 1 }) : null;
  }
}
