export async function demoCommand(_: readonly string[]): Promise<void> { await Promise.resolve(); }
