import { LurnError } from '@lurn/core';
import { after, drawnWarp, invert, scaleRange, scaling, type Warp } from '@lurn/core/geometry';
import { type ChromaSiting, type Plane, type Rgb, ToneMap } from '@lurn/core/picture';
import type { Size } from '@lurn/core/plan';
import { chromaToLuma, featherOf, halvingsFor, isWide } from '@lurn/core/warp';
import { LRUCache } from 'lru-cache';
import type { DonorSheet, Drawer, Laying, Pane } from '../drawer.js';
import type { Picture } from '../picture.js';
import { yuvToRgb, type ColourCoding } from './colour.js';
import { drawProgram, HALVE, MOST_DEEPER, VERTEX, type DrawKind } from './shaders.js';

const BEYOND = { colour: 0, stretched: 1, mirrored: 2, transparent: 3, borrowed: 0 } as const;
const QUALITY = { cubic: 0, linear: 1, nearest: 2 } as const;
/** Pictures on the graphics card at a time: a frame, what is borrowed for it, and the reference frame. */
const MOST_PICTURES = 7;
/** Halved planes that are made at the most: 1/16. */
const MOST_HALVINGS = 4;

const NOTHING: Rgb = [0, 0, 0];
/** After the three planes. */
const NODES_UNIT = 3;

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
export class PictureDrawer implements Drawer {
  private readonly gl: WebGL2RenderingContext;
  /** Drawing programs by what they are made for, with the places of their uniforms. */
  private readonly programs = new Map<string, DrawProgram>();
  private readonly halve: WebGLProgram;
  private readonly tone: ToneMap | null;
  /** Textures of pictures on the graphics card. */
  private readonly loaded = new LRUCache<Picture, PlaneTextures[]>({
    max: MOST_PICTURES,
    dispose: (planes) => this.spare.push(planes),
  });
  /** Textures of pictures that were not needed for longest: they are used again. */
  private readonly spare: PlaneTextures[][] = [];

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
    this.tone = ToneMap.for(coding);
    this.halve = program(gl, HALVE);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    gl.bindVertexArray(gl.createVertexArray());
  }

  /** The picture's textures; it is sent to the graphics card when it is not there yet. */
  private planesOf(picture: Picture): PlaneTextures[] {
    let planes = this.loaded.get(picture);
    if (!planes) {
      planes = this.spare.pop() ?? [0, 1, 2].map(() => ({ levels: [], filled: 0 }));
      for (const [k, plane] of [picture.y, picture.u, picture.v].entries()) this.upload(planes[k], plane);
      this.loaded.set(picture, planes);
    }
    return planes;
  }

  clear(): void {
    const { gl, ground } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.disable(gl.SCISSOR_TEST);
    gl.clearColor(ground, ground, ground, 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
  }

  /**
   * Draws a picture into a pane, and under its edges what is borrowed.
   *
   * @param raw  true writes luma and chroma instead of red, green and blue: for measuring
   */
  drawPane(picture: Picture, pane: Pane, laying: Laying = 'over', raw = false): void {
    const { gl } = this;
    const bottom = this.canvas.height - pane.y - pane.height;
    const donors = pane.edges?.donors ?? [];
    const sheets = [{ picture, toLuma: pane.toLuma, offset: NOTHING }, ...donors.slice(0, MOST_DEEPER)];
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.enable(gl.SCISSOR_TEST);
    gl.scissor(pane.x, bottom, pane.width, pane.height);
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.SRC_ALPHA, gl.ONE_MINUS_SRC_ALPHA);
    this.drawSheet(pane, sheets, 0, 0, raw, laying);
    for (let k = sheets.length - 1; sheets.length > 1 && k >= 0; k--) {
      this.drawSheet(pane, sheets, k, k === 0 ? 2 : 1, raw, laying);
    }
    gl.disable(gl.BLEND);
    gl.disable(gl.SCISSOR_TEST);
  }

  /** @param layered  0: the whole pane; 1, 2: only near and beyond the frame's own edge, fading into what lies below */
  private drawSheet(
    pane: Pane,
    sheets: readonly DonorSheet[],
    at: number,
    layered: 0 | 1 | 2,
    raw: boolean,
    laying: Laying,
  ): void {
    const { gl } = this;
    const { picture, toLuma, offset: match } = sheets[at];
    const planes = this.planesOf(picture);
    const toChroma = after(invert(chromaToLuma(picture.subsampling, this.coding.siting)), toLuma);
    const luma = this.level(planes[0], toLuma, pane);
    const [u, v] = [this.level(planes[1], toChroma, pane), this.level(planes[2], toChroma, pane)];
    const below = layered ? sheets.slice(at + 1) : [];
    const warps = [luma.warp, u.warp, toLuma, sheets[0].toLuma, ...below.map((s) => s.toLuma)];
    const bottom = this.canvas.height - pane.y - pane.height;
    gl.bindFramebuffer(gl.FRAMEBUFFER, null);
    gl.viewport(pane.x, bottom, pane.width, pane.height);
    gl.enable(gl.SCISSOR_TEST);
    gl.enable(gl.BLEND);
    const { program: drawing, place } = this.programFor({
      quality: QUALITY[pane.quality],
      wide: isWide(Math.max(luma.most, u.most)),
      beyond: layered ? BEYOND.stretched : BEYOND[pane.edges?.mode ?? 'colour'],
      layered,
      meshed: warps.some((w) => drawnWarp(w).grid !== null),
      hdr: this.tone ? (this.tone.hlg ? 2 : 1) : 0,
    });
    gl.useProgram(drawing);
    [luma, u, v].forEach(({ texture }, k) => {
      gl.activeTexture(gl.TEXTURE0 + k);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      gl.uniform1i(place(`plane${'YUV'[k]}`), k);
    });
    const { matrix, offset } = yuvToRgb(this.coding, picture.y.height);
    const outside = pane.edges?.colour ?? [this.coding.range === 'pc' ? 0 : 16, 128, 128];
    gl.uniformMatrix3fv(place('toFrame'), true, pane.toFrame);
    this.setWarps(warps, place);
    gl.uniform2f(place('origin'), pane.x, bottom);
    gl.uniform1f(place('paneHeight'), pane.height);
    gl.uniform2f(place('frameSize'), ...pane.frameSize);
    gl.uniform3f(place('black'), outside[0] / 255, outside[1] / 255, outside[2] / 255);
    gl.uniform3f(place('ground'), this.ground, this.ground, this.ground);
    gl.uniformMatrix3fv(place('toRgb'), false, matrix);
    gl.uniform3f(place('offset'), offset[0], offset[1], offset[2]);
    if (this.tone) gl.uniformMatrix3fv(place('gamut'), true, this.tone.gamut);
    gl.uniform1i(place('raw'), raw ? 1 : 0);
    gl.uniform3f(place('match'), match[0] / 255, match[1] / 255, match[2] / 255);
    gl.uniform1f(place('opacity'), laying === 'over' ? 1 : 0.5);
    gl.uniform1i(place('negative'), laying === 'half negative' ? 1 : 0);
    gl.uniform1i(place('deeper'), below.length);
    const { width, height } = picture.y;
    gl.uniform2f(place('lumaSize'), width, height);
    gl.uniform1f(place('feather'), featherOf({ width, height }));
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  /** Waits for the graphics card, so that drawing can never fall behind. */
  finish(): void {
    this.read(0, 0, 1, 1);
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

  /** The plane halved as often as the shrink asks for, with the warp that goes with it and what that shrinks at most. */
  private level(
    plane: PlaneTextures,
    toPlane: Warp,
    { width, height }: Size,
  ): { texture: WebGLTexture; warp: Warp; most: number } {
    const { least, most } = scaleRange(toPlane, width, height);
    const level = Math.min(MOST_HALVINGS, halvingsFor(least));
    while (plane.filled <= level) this.halveInto(plane, plane.filled);
    const warp = level > 0 ? after(scaling(0.5 ** level), toPlane) : toPlane;
    return { texture: plane.levels[level].texture, warp, most: most / 2 ** level };
  }

  private nodes: WebGLTexture | null = null;

  /** Hands warps to the drawing program, in the order of {@link WARPS}. */
  private setWarps(given: readonly Warp[], place: DrawProgram['place']): void {
    const { gl } = this;
    const warps = given.map(drawnWarp);
    const grids = warps.flatMap(({ grid }) => grid ?? []);
    gl.uniformMatrix3fv(
      place('warpMatrix'),
      true,
      warps.flatMap(({ matrix }) => [...matrix]),
    );
    if (grids.length === 0) return;
    const width = Math.max(...grids.map((m) => m.columns + 1));
    const height = grids.reduce((sum, m) => sum + m.rows + 1, 0);
    const data = new Float32Array(2 * width * height);
    const cells: number[] = [];
    let first = 0;
    for (const { grid } of warps) {
      if (!grid) {
        cells.push(0, 0, 0);
        continue;
      }
      const row = 2 * (grid.columns + 1);
      for (let r = 0; r <= grid.rows; r++)
        data.set(grid.to.subarray(r * row, (r + 1) * row), 2 * width * (first + r));
      cells.push(grid.columns, grid.rows, first);
      first += grid.rows + 1;
    }
    gl.activeTexture(gl.TEXTURE0 + NODES_UNIT);
    if (this.nodes) gl.deleteTexture(this.nodes);
    this.nodes = gl.createTexture()!;
    gl.bindTexture(gl.TEXTURE_2D, this.nodes);
    for (const filter of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
      gl.texParameteri(gl.TEXTURE_2D, filter, gl.NEAREST);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RG32F, width, height, 0, gl.RG, gl.FLOAT, data);
    gl.uniform1i(place('nodes'), NODES_UNIT);
    gl.uniform3iv(place('warpMesh'), cells);
  }

  private halveInto(plane: PlaneTextures, level: number): void {
    const { gl } = this;
    const above = plane.levels[level - 1];
    const [width, height] = [(above.width + 1) >> 1, (above.height + 1) >> 1];
    const target = (plane.levels[level] ??= this.texture(width, height));
    const frame = gl.createFramebuffer();
    gl.disable(gl.SCISSOR_TEST);
    gl.disable(gl.BLEND);
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

  private programFor(kind: DrawKind): DrawProgram {
    const key = JSON.stringify(kind);
    let made = this.programs.get(key);
    if (!made) {
      const { gl } = this;
      const linked = program(gl, drawProgram(kind));
      const places = new Map<string, WebGLUniformLocation | null>();
      const place = (name: string) => {
        if (!places.has(name)) places.set(name, gl.getUniformLocation(linked, name));
        return places.get(name)!;
      };
      made = { program: linked, place };
      this.programs.set(key, made);
    }
    return made;
  }
}

interface DrawProgram {
  readonly program: WebGLProgram;
  readonly place: (name: string) => WebGLUniformLocation | null;
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
