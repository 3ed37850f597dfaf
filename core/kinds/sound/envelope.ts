/** The envelope of a sound's facts as numbers in -1 to 1: low, high, low, high, … */
export function decodeEnvelope(envelope: string): number[] {
  return Array.from(atob(envelope), (letter) => {
    const byte = letter.charCodeAt(0);
    return (byte > 127 ? byte - 256 : byte) / 127;
  });
}
