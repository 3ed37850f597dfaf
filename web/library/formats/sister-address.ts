/** Address of a file by its name from another one, of which the address is known; `..` leads out of a folder. */
export function sisterAddress(address: string, name: string): string {
  const folder = address.slice(0, address.lastIndexOf('/'));
  const steps = folder.split('/');
  for (const part of name.split(/[\\/]/)) {
    if (part === '..') steps.pop();
    else if (part !== '' && part !== '.') steps.push(encodeURIComponent(part));
  }
  return steps.join('/');
}
