// The part of the WebAssembly namespace the engine uses: the core is compiled without DOM and Node types.
declare namespace WebAssembly {
  interface Module {
    readonly __module: unique symbol;
  }
  interface Memory {
    readonly buffer: ArrayBuffer;
    grow(pages: number): number;
  }
  interface Instance {
    readonly exports: Record<string, unknown>;
  }
  const Module: new (bytes: Uint8Array<ArrayBuffer> | ArrayBuffer) => Module;
  const Instance: new (module: Module, imports?: Record<string, Record<string, unknown>>) => Instance;
}
