/** Systems take names of 255 bytes, and some archives that a site may travel in fewer. */
const longestNameBytes = 180;

/** A name that every file system and web server takes; its end stays, where the extension is. */
export function fileName(name: string): string {
  let letters = [...name.replace(/[^\p{L}\p{N}._ ()-]/gu, '_')];
  while (Buffer.byteLength(letters.join('')) > longestNameBytes) letters = letters.slice(1);
  return letters.join('').replace(/^\.+$/, '_');
}
