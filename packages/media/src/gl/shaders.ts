import { LUMA_2020, TONE } from '@lurn/core/picture';
import { SHRINK_FROM, WIDEST } from '@lurn/core/warp';

/** GLSL of the preview. The kernel and its bounds are those of core's `warpPlane`. */

export const VERTEX = `#version 300 es
void main() {
  vec2 p = vec2((gl_VertexID << 1) & 2, gl_VertexID & 2);
  gl_Position = vec4(p * 2.0 - 1.0, 0.0, 1.0);
}`;

/** Halves a plane with [1 3 3 1] / 8 both ways, by four linear fetches. */
export const HALVE = `#version 300 es
precision highp float;
uniform sampler2D plane;
out vec4 colour;
void main() {
  vec2 size = vec2(textureSize(plane, 0));
  // Weights 1 and 3 of neighbours i and i + 1 are one linear fetch at three quarters between their centres.
  vec2 at = floor(gl_FragCoord.xy) * 2.0 + 1.0;
  vec2 a = (at - 0.75) / size;
  vec2 b = (at + 0.75) / size;
  float sum = texture(plane, a).r + texture(plane, vec2(b.x, a.y)).r + texture(plane, vec2(a.x, b.y)).r + texture(plane, b).r;
  colour = vec4(sum * 0.25);
}`;

/** What a drawing program is made for: fixed when it is compiled, since drawing without a card runs every branch. */
export interface DrawKind {
  /** 0 cubic, 1 linear, 2 nearest. */
  readonly quality: 0 | 1 | 2;
  /** The picture shrinks: the cubic kernel widens with it. */
  readonly wide: boolean;
  /** What lies outside the picture: 0 a colour, 1 stretched, 2 mirrored, 3 nothing (a chequer). */
  readonly beyond: 0 | 1 | 2 | 3;
  /** 1: a sheet of borrowed edges, 2: the frame's own sheet on top of them. */
  readonly layered: 0 | 1 | 2;
  /** Some warp is a mesh. */
  readonly meshed: boolean;
  /** What is seen is HDR: 1 PQ, 2 HLG; 0 where it is not. */
  readonly hdr: 0 | 1 | 2;
}

/** Places of the warps in the arrays of the drawing program. */
export const WARPS = { luma: 0, chroma: 1, sheet: 2, own: 3, deeper: 4 } as const;
/** Sheets below one that may be borrowed from. */
export const MOST_DEEPER = 4;
const WARP_COUNT = WARPS.deeper + MOST_DEEPER;

export const drawProgram = ({ quality, wide, beyond, layered, meshed, hdr }: DrawKind) => `#version 300 es
#define QUALITY ${quality}
#define WIDE ${wide ? 1 : 0}
#define BEYOND ${beyond}
#define LAYERED ${layered}
#define MESHED ${meshed ? 1 : 0}
#define HDR ${hdr}
#define LUMA ${WARPS.luma}
#define CHROMA ${WARPS.chroma}
#define SHEET ${WARPS.sheet}
#define OWN ${WARPS.own}
#define DEEPER ${WARPS.deeper}
#define WIDEST ${WIDEST.toFixed(1)}
precision highp float;
precision highp int;
uniform sampler2D planeY;
uniform sampler2D planeU;
uniform sampler2D planeV;
uniform mat3 toFrame;    // device pixel of the pane -> pixels of the frame that is shown
uniform mat3 warpMatrix[${WARP_COUNT}]; // device pixel of the pane -> samples, or the unit square of a mesh
uniform ivec3 warpMesh[${WARP_COUNT}];  // columns, rows and first row among the nodes; no columns: a matrix alone
uniform sampler2D nodes; // where the nodes of meshes go
uniform vec2 origin;     // device pixel of the pane's lower left corner, and its height in z
uniform float paneHeight;
uniform vec2 frameSize;
uniform vec3 black;      // luma and chroma outside the picture
uniform vec3 ground;     // what surrounds the frame
uniform mat3 toRgb;
uniform vec3 offset;
#if HDR != 0
uniform mat3 gamut;      // light of the clip's primaries to that of the screen's
#endif
uniform int raw;         // 1: the planes themselves, for measuring
uniform vec3 match;      // added to luma and chroma
uniform float opacity;
uniform int negative;
uniform int deeper;      // sheets below this one
uniform vec2 lumaSize;
uniform float feather;
out vec4 colour;

float cubic(float t) {
  float x = abs(t);
  if (x < 1.0) return (1.5 * x - 2.5) * x * x + 1.0;
  if (x < 2.0) return ((-0.5 * x + 2.5) * x - 4.0) * x + 2.0;
  return 0.0;
}

float fetch(sampler2D plane, ivec2 at, ivec2 size) {
  return texelFetch(plane, clamp(at, ivec2(0), size - 1), 0).r;
}

float plain(sampler2D plane, vec2 p, ivec2 size) {
  vec2 q = p - 0.5;
  ivec2 i = ivec2(floor(q));
  vec2 f = q - vec2(i);
  float sum = 0.0;
  for (int r = -1; r <= 2; r++) {
    float line = 0.0;
    for (int c = -1; c <= 2; c++) line += cubic(float(c) - f.x) * fetch(plane, i + ivec2(c, r), size);
    sum += cubic(float(r) - f.y) * line;
  }
  return sum;
}

float wide(sampler2D plane, vec2 p, ivec2 size, float s) {
  int taps = int(ceil(4.0 * s));
  ivec2 first = ivec2(floor(p - 0.5 - 2.0 * s)) + 1;
  float wx[16];
  float sumX = 0.0;
  float sumY = 0.0;
  for (int c = 0; c < taps; c++) sumX += wx[c] = cubic((float(first.x + c) - p.x + 0.5) / s);
  float sum = 0.0;
  for (int r = 0; r < taps; r++) {
    float wy = cubic((float(first.y + r) - p.y + 0.5) / s);
    float line = 0.0;
    for (int c = 0; c < taps; c++) line += wx[c] * fetch(plane, first + ivec2(c, r), size);
    sum += wy * line;
    sumY += wy;
  }
  return sum / (sumX * sumY);
}

vec2 fold(vec2 p, vec2 size) {
#if BEYOND == 1
  return clamp(p, vec2(0.0), size);
#else
  vec2 t = p - 2.0 * size * floor(p / (2.0 * size));
  return mix(t, 2.0 * size - t, step(size, t));
#endif
}

float depth(vec2 p, vec2 size) {
  vec2 edge = min(p, size - p);
  return min(edge.x, edge.y);
}

float take(sampler2D plane, vec2 p, float s, float outside) {
  ivec2 size = textureSize(plane, 0);
#if BEYOND == 1 || BEYOND == 2
  p = fold(p, vec2(size));
#endif
  float inside = depth(p, vec2(size));
  float cover = inside >= 0.0 ? 1.0 : max(0.0, 1.0 + inside);
  if (cover <= 0.0) return outside;
#if QUALITY == 2
  float v = fetch(plane, ivec2(floor(p)), size);
#elif QUALITY == 1
  float v = texture(plane, p / vec2(size)).r;
#elif WIDE == 1
  float v = s > ${SHRINK_FROM} ? wide(plane, p, size, s) : plain(plane, p, size);
#else
  float v = plain(plane, p, size);
#endif
  return outside + (clamp(v, 0.0, 1.0) - outside) * cover;
}

vec2 through(mat3 m, vec2 p) {
  vec3 q = m * vec3(p, 1.0);
  return q.xy / q.z;
}

// Where a warp takes a place, and the local scale: core's evaluatorOf.
vec3 place(int k, vec2 p) {
  mat3 m = warpMatrix[k];
  vec3 q = m * vec3(p, 1.0);
  if (q.z <= 0.0) return vec3(-1e6, -1e6, 1e6);
  vec2 s = q.xy / q.z;
  float area = abs(determinant(m)) / (q.z * q.z * q.z);
#if MESHED == 1
  ivec3 mesh = warpMesh[k];
  if (mesh.x > 0) {
    vec2 cells = vec2(mesh.xy);
    vec2 g = s * cells;
    ivec2 cell = clamp(ivec2(floor(g)), ivec2(0), mesh.xy - 1);
    vec2 f = g - vec2(cell);
    ivec2 at = ivec2(cell.x, cell.y + mesh.z);
    vec2 a = texelFetch(nodes, at, 0).rg;
    vec2 b = texelFetch(nodes, at + ivec2(1, 0), 0).rg;
    vec2 c = texelFetch(nodes, at + ivec2(0, 1), 0).rg;
    vec2 d = texelFetch(nodes, at + ivec2(1, 1), 0).rg;
    vec2 along = cells.x * mix(b - a, d - c, f.y);
    vec2 down = cells.y * mix(c - a, d - b, f.x);
    area *= abs(along.x * down.y - along.y * down.x);
    s = mix(mix(a, b, f.x), mix(c, d, f.x), f.y);
  }
#endif
  return vec3(s, sqrt(area));
}

#if HDR != 0
const float WHITE = ${TONE.white.toFixed(1)};
const vec2 M = vec2(${TONE.m1}, ${TONE.m2});
const vec3 C = vec3(${TONE.c.join(', ')});

vec3 fromPq(vec3 code) {
  vec3 e = pow(code, vec3(1.0 / M.y));
  return 10000.0 * pow(max(e - C.x, 0.0) / (C.y - C.z * e), vec3(1.0 / M.x));
}

vec3 toPq(vec3 nits) {
  vec3 p = pow(max(nits, 0.0) / 10000.0, vec3(M.x));
  return pow((C.x + C.y * p) / (1.0 + C.z * p), vec3(M.y));
}

// Core's ToneMap.
vec3 shownAs(vec3 code) {
#if HDR == 1
  vec3 nits = gamut * fromPq(code);
#else
  vec3 scene = mix(code * code / 3.0, (exp((code - ${TONE.hlg[2]}) / ${TONE.hlg[0]}) + ${TONE.hlg[1]}) / 12.0, step(0.5, code));
  float luminance = dot(scene, vec3(${LUMA_2020.join(', ')}));
  vec3 nits = gamut * (scene * ${TONE.peak.toFixed(1)} * pow(max(luminance, 1e-6), ${(TONE.systemGamma - 1).toFixed(3)}));
#endif
  const float source = ${TONE.source};
  const float target = ${TONE.target};
  const float knee = ${TONE.knee};
  vec3 e = min(toPq(nits) / source, 1.0);
  vec3 t = (e - knee) / (1.0 - knee);
  vec3 t2 = t * t;
  vec3 t3 = t2 * t;
  vec3 rolled = (2.0 * t3 - 3.0 * t2 + 1.0) * knee + (t3 - 2.0 * t2 + t) * (1.0 - knee) + (3.0 * t2 - 2.0 * t3) * target;
  vec3 light = clamp(mix(nits, fromPq(rolled * source), step(knee, e)) / WHITE, 0.0, 1.0);
  return mix(12.92 * light, 1.055 * pow(light, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, light));
}
#endif

void main() {
  vec2 p = vec2(gl_FragCoord.x - origin.x, paneHeight - (gl_FragCoord.y - origin.y));
  vec2 f = through(toFrame, p);
  if (any(lessThan(f, vec2(0.0))) || any(greaterThan(f, frameSize))) {
    colour = vec4(ground, 1.0);
    return;
  }
  float alpha = opacity;
#if LAYERED != 0
  // The same weights as core's borrowPlane.
  {
    if (depth(place(OWN, p).xy, lumaSize) >= feather) discard;
    float d = depth(place(SHEET, p).xy, lumaSize);
    float cover = clamp(1.0 + d, 0.0, 1.0);
    if (cover <= 0.0) discard;
    float below = 0.0;
    for (int k = 0; k < deeper; k++)
      below = max(below, clamp(4.0 * depth(place(DEEPER + k, p).xy, lumaSize) / feather, 0.0, 1.0));
    alpha *= cover * (1.0 - below * (1.0 - smoothstep(0.0, feather, d)));
  }
#endif
  vec3 l = place(LUMA, p);
  vec3 c = place(CHROMA, p);
  l.z = min(l.z, WIDEST);
  c.z = min(c.z, WIDEST);
  vec3 yuv = vec3(
    take(planeY, l.xy, l.z, black.x),
    take(planeU, c.xy, c.z, black.y),
    take(planeV, c.xy, c.z, black.z)
  ) + match;
  vec3 rgb = clamp(toRgb * (yuv - offset), 0.0, 1.0);
#if HDR != 0
  if (raw == 0) rgb = shownAs(rgb);
#endif
#if BEYOND == 3
  vec2 cell = floor(gl_FragCoord.xy / 8.0);
  float outside = 1.0 - clamp(1.0 + depth(place(SHEET, p).xy, lumaSize), 0.0, 1.0);
  rgb = mix(rgb, vec3(mod(cell.x + cell.y, 2.0) < 0.5 ? 0.36 : 0.46), outside);
#endif
  if (negative == 1) rgb = 1.0 - rgb;
  colour = vec4(raw == 1 ? yuv : rgb, alpha);
}`;
