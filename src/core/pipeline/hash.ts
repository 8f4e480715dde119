/**
 * A short name for a value that does not tell it: 64 bits of FNV-1a, in hex, by two runs with different beginnings. It
 * keeps values apart and equal values equal; it is no secret to somebody who can guess the value.
 */
export function shortHash(text: string): string {
  const run = (from: number) => {
    let hash = from;
    for (let i = 0; i < text.length; i++) {
      const code = text.charCodeAt(i);
      hash = Math.imul(hash ^ (code & 0xff), 0x01000193);
      hash = Math.imul(hash ^ (code >> 8), 0x01000193);
    }
    return (hash >>> 0).toString(16).padStart(8, "0");
  };
  return run(0x811c9dc5) + run(0x5bd1e995);
}
