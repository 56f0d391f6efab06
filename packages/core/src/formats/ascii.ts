/** Text of which every character is one byte, without what only browsers or Node.js have. */

const AT_ONCE = 8192;

export function asciiText(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += AT_ONCE)
    text += String.fromCharCode(...bytes.subarray(i, i + AT_ONCE));
  return text;
}

export function asciiBytes(text: string): Uint8Array<ArrayBuffer> {
  return Uint8Array.from(text, (c) => c.charCodeAt(0));
}

/** JSON with every other character as an escape. */
export function asciiJson(value: unknown): string {
  return JSON.stringify(value).replace(
    /[\u0080-\uffff]/g,
    (c) => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`,
  );
}
