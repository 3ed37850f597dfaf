/** The text of `module.ts`, as the sources of today give it. */
export function compileKernels(): Promise<string>;
