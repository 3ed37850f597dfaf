/** Whether the bytes at an offset are those of a signature, one to each of its characters. */
export function startsWith(bytes: Uint8Array, signature: string, at = 0): boolean {
  if (bytes.length < at + signature.length) return false;
  for (let i = 0; i < signature.length; i++) if (bytes[at + i] !== signature.charCodeAt(i)) return false;
  return true;
}
