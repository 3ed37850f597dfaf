export async function publishCommand(_: readonly string[]): Promise<void> { await Promise.resolve(); }
