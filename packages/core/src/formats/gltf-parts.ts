const [FLOAT, UNSIGNED_INT, UNSIGNED_BYTE] = [5126, 5125, 5121];
/** What a view's bytes are for (glTF 2.0, 5.11.5). */
export const [VERTICES, INDICES] = [34962, 34963];

/** The least and the greatest of each coordinate, as accessors tell them. */
export function boundsOf(values: Float32Array): { min: number[]; max: number[] } {
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  values.forEach((v, k) => {
    min[k % 3] = Math.min(min[k % 3], v);
    max[k % 3] = Math.max(max[k % 3], v);
  });
  return { min, max };
}

/** Numbers of one buffer, with what tells where they lie. */
export class GltfParts {
  private readonly bytes: Uint8Array[] = [];
  private length = 0;
  private readonly views: object[] = [];
  private readonly accessors: object[] = [];

  add(
    values: Float32Array | Uint32Array | Uint8Array,
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4',
    count: number,
    target: number | null,
    bounds: object = {},
  ): number {
    this.bytes.push(new Uint8Array(values.buffer, values.byteOffset, values.byteLength));
    this.views.push({
      ...{ buffer: 0, byteOffset: this.length, byteLength: values.byteLength },
      ...(target !== null && { target }),
    });
    this.length += values.byteLength;
    const componentType =
      values instanceof Float32Array ? FLOAT : values instanceof Uint8Array ? UNSIGNED_BYTE : UNSIGNED_INT;
    this.accessors.push({ bufferView: this.views.length - 1, componentType, count, type, ...bounds });
    return this.accessors.length - 1;
  }

  told(): object {
    const all = new Uint8Array(this.length);
    let at = 0;
    for (const part of this.bytes) {
      all.set(part, at);
      at += part.length;
    }
    const uri = `data:application/octet-stream;base64,${base64(all)}`;
    return {
      bufferViews: this.views,
      accessors: this.accessors,
      buffers: [{ byteLength: this.length, uri }],
    };
  }
}

const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Bytes as base64 (RFC 4648): core knows neither the browser's way nor Node's. */
function base64(bytes: Uint8Array): string {
  const out: string[] = [];
  for (let i = 0; i < bytes.length; i += 3) {
    const [a, b = 0, c = 0] = [bytes[i], bytes[i + 1], bytes[i + 2]];
    const bits = (a << 16) | (b << 8) | c;
    out.push(
      LETTERS[bits >> 18] + LETTERS[(bits >> 12) & 63],
      i + 1 < bytes.length ? LETTERS[(bits >> 6) & 63] : '=',
      i + 2 < bytes.length ? LETTERS[bits & 63] : '=',
    );
  }
  return out.join('');
}
