/** Bytes as text, on both sides of the border to a page: lists of numbers take seconds to cross it. */

export function packed(bytes: Uint8Array | Uint8ClampedArray): string {
  let text = '';
  for (const byte of bytes) text += String.fromCharCode(byte);
  return btoa(text);
}

export function unpacked(text: string): Uint8Array {
  return Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
}
