import {
  areaScale,
  chromaToLuma,
  HALVE_FROM,
  invert,
  LurnError,
  multiply,
  scaling,
  type ChromaSiting,
  type Matrix3,
  type Plane,
} from '@lurn/core';
import type { Picture } from '../picture.js';
import { yuvToRgb, type ColourCoding } from './colour.js';
import { DRAW, HALVE, VERTEX } from './shaders.js';

/** One pane of the canvas, in device pixels from its top left corner, and what is drawn in it. */
export interface Pane {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** Pane pixels to the pixels of the frame that is shown (the source's, or the output's). */
  readonly toFrame: Matrix3;
  readonly frameSize: readonly [number, number];
  /** Pane pixels to luma samples of the coded picture. */
  readonly toLuma: Matrix3;
  readonly quality: 'cubic' | 'linear' | 'nearest';
}

const QUALITY = { cubic: 0, linear: 1, nearest: 2 } as const;
/** Halved planes that are made at the most: 1/16. */
const MOST_HALVINGS = 4;

interface PlaneTextures {
  /** Full size first, then halved. */
  readonly levels: { texture: WebGLTexture; width: number; height: number }[];
  /** How many levels hold the present picture. */
  filled: number;
}

/**
 * Draws planar pictures with WebGL2: the warp, the kernel and the anti-aliasing of core's `warpPlane`, and only
 * then the conversion to red, green and blue.
 */
export class PictureDrawer {
  private readonly gl: WebGL2RenderingContext;
  private readonly draw: WebGLProgram;
  private readonly halve: WebGLProgram;
  private readonly planes: PlaneTextures[];
  private readonly places = new Map<string, WebGLUniformLocation | null>();
  private picture: Picture | null = null;

  /** @throws LurnError `no-webgl` */
  constructor(
    readonly canvas: OffscreenCanvas,
    private readonly coding: ColourCoding & { readonly siting: ChromaSiting },
    /** Grey of what surrounds the frame, 0 to 1. */
    public ground = 0.2,
  ) {
    const gl = canvas.getContext('webgl2', { alpha: false, antialias: false, preserveDrawingBuffer: true });
    if (!gl) {
      throw new LurnError(
        'no-webgl',
        'This browser offers no WebGL2, which the picture is drawn with. Switch on hardware acceleration.',
      );
    }
    this.gl = gl;
    this.draw = program(gl, DRAW);
    this.halve = program(gl, HALVE);
    this.planes = [0, 1, 2].map(() => ({ levels: [], filled: 0 }));
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    gl.bindVertexArray(gl.createVertexArray());
  }

  /** Sends a picture to the graphics card; nothing is done when it is there already. */
  load(picture: Picture): void {
    if (this.picture === picture) return;
    this.picture = picture;
    [picture.y, picture.u, picture.v].forEach((plane, k) => this.upload(this.planes[k], plane));
  }

  clear(): void {
    const { gl, ground } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.disable(gl.SCISSOR_TEST);
    gl.clearColor(ground, ground, ground, 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
  }

  /**
   * Draws the loaded picture into a pane.
   *
   * @param raw  true writes luma and chroma instead of red, green and blue: for measuring
   */
  drawPane(pane: Pane, raw = false): void {
    const { gl, picture } = this;
    if (!picture) return;
    const toChroma = multiply(invert(chromaToLuma(picture.subsampling, this.coding.siting)), pane.toLuma);
    const luma = this.level(this.planes[0], pane.toLuma);
    const [u, v] = [this.level(this.planes[1], toChroma), this.level(this.planes[2], toChroma)];
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    const bottom = this.canvas.height - pane.y - pane.height;
    gl.viewport(pane.x, bottom, pane.width, pane.height);
    gl.enable(gl.SCISSOR_TEST);
    gl.scissor(pane.x, bottom, pane.width, pane.height);
    gl.useProgram(this.draw);
    [luma, u, v].forEach(({ texture }, k) => {
      gl.activeTexture(gl.TEXTURE0 + k);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      gl.uniform1i(this.place(`plane${'YUV'[k]}`), k);
    });
    const { matrix, offset } = yuvToRgb(this.coding, picture.y.height);
    const black = this.coding.range === 'pc' ? 0 : 16 / 255;
    gl.uniformMatrix3fv(this.place('toFrame'), true, pane.toFrame);
    gl.uniformMatrix3fv(this.place('toLuma'), true, luma.matrix);
    gl.uniformMatrix3fv(this.place('toChroma'), true, u.matrix);
    gl.uniform2f(this.place('origin'), pane.x, bottom);
    gl.uniform1f(this.place('paneHeight'), pane.height);
    gl.uniform2f(this.place('frameSize'), ...pane.frameSize);
    gl.uniform2f(this.place('shrink'), areaScale(luma.matrix), areaScale(u.matrix));
    gl.uniform1i(this.place('quality'), QUALITY[pane.quality]);
    gl.uniform3f(this.place('black'), black, 128 / 255, 128 / 255);
    gl.uniform3f(this.place('ground'), this.ground, this.ground, this.ground);
    gl.uniformMatrix3fv(this.place('toRgb'), false, matrix);
    gl.uniform3f(this.place('offset'), offset[0], offset[1], offset[2]);
    gl.uniform1i(this.place('raw'), raw ? 1 : 0);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    gl.disable(gl.SCISSOR_TEST);
  }

  /** Pixels of a rectangle given from the top left corner: red, green, blue, alpha, top row first. */
  read(x: number, y: number, width: number, height: number): Uint8Array {
    const { gl } = this;
    const rows = new Uint8Array(width * height * 4);
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.readPixels(x, this.canvas.height - y - height, width, height, gl.RGBA, gl.UNSIGNED_BYTE, rows);
    const out = new Uint8Array(rows.length);
    for (let r = 0; r < height; r++)
      out.set(rows.subarray((height - 1 - r) * width * 4, (height - r) * width * 4), r * width * 4);
    return out;
  }

  /** The plane halved as often as the shrink asks for, and the matrix that goes with it. */
  private level(plane: PlaneTextures, matrix: Matrix3): { texture: WebGLTexture; matrix: Matrix3 } {
    let level = 0;
    let m = matrix;
    while (level < MOST_HALVINGS && areaScale(m) > HALVE_FROM) {
      m = multiply(scaling(0.5), m);
      level++;
    }
    while (plane.filled <= level) this.halveInto(plane, plane.filled);
    return { texture: plane.levels[level].texture, matrix: m };
  }

  private halveInto(plane: PlaneTextures, level: number): void {
    const { gl } = this;
    const above = plane.levels[level - 1];
    const [width, height] = [(above.width + 1) >> 1, (above.height + 1) >> 1];
    const target = (plane.levels[level] ??= this.texture(width, height));
    const frame = gl.createFramebuffer();
    gl.bindFramebuffer(gl.FRAMEBUFFER, frame);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, target.texture, 0);
    gl.viewport(0, 0, width, height);
    gl.useProgram(this.halve);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, above.texture);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    gl.deleteFramebuffer(frame);
    plane.filled = level + 1;
  }

  private upload(textures: PlaneTextures, plane: Plane): void {
    const { gl } = this;
    const first = textures.levels[0];
    if (!first || first.width !== plane.width || first.height !== plane.height) {
      for (const { texture } of textures.levels) gl.deleteTexture(texture);
      textures.levels.length = 0;
      textures.levels.push(this.texture(plane.width, plane.height));
    }
    gl.bindTexture(gl.TEXTURE_2D, textures.levels[0].texture);
    gl.pixelStorei(gl.UNPACK_ROW_LENGTH, plane.stride);
    gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, plane.width, plane.height, gl.RED, gl.UNSIGNED_BYTE, plane.data);
    gl.pixelStorei(gl.UNPACK_ROW_LENGTH, 0);
    textures.filled = 1;
  }

  private texture(width: number, height: number): { texture: WebGLTexture; width: number; height: number } {
    const { gl } = this;
    const texture = gl.createTexture()!;
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.texStorage2D(gl.TEXTURE_2D, 1, gl.R8, width, height);
    for (const side of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T])
      gl.texParameteri(gl.TEXTURE_2D, side, gl.CLAMP_TO_EDGE);
    for (const filter of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
      gl.texParameteri(gl.TEXTURE_2D, filter, gl.LINEAR);
    return { texture, width, height };
  }

  private place(name: string): WebGLUniformLocation | null {
    if (!this.places.has(name)) this.places.set(name, this.gl.getUniformLocation(this.draw, name));
    return this.places.get(name)!;
  }
}

function program(gl: WebGL2RenderingContext, fragment: string): WebGLProgram {
  const made = gl.createProgram();
  for (const [kind, source] of [
    [gl.VERTEX_SHADER, VERTEX],
    [gl.FRAGMENT_SHADER, fragment],
  ] as const) {
    const shader = gl.createShader(kind)!;
    gl.shaderSource(shader, source);
    gl.compileShader(shader);
    gl.attachShader(made, shader);
  }
  gl.linkProgram(made);
  if (!gl.getProgramParameter(made, gl.LINK_STATUS)) {
    throw new LurnError(
      'no-webgl',
      `The graphics card refuses the picture's program: ${gl.getProgramInfoLog(made) ?? ''}`,
    );
  }
  return made;
}
