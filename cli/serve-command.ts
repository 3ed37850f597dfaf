export async function serveCommand(_: readonly string[]): Promise<void> { await Promise.resolve(); }
