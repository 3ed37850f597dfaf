export async function benchCommand(_: readonly string[]): Promise<void> { await Promise.resolve(); }
