/** A temporary file is named after the process that writes it. */
export function temporaryName(owner: string, name: string): string {
  return `${owner.replace('/', '~')}~${name}`;
}
