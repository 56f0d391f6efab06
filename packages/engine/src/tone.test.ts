import sharp from 'sharp';
import { ToneMap } from '@lurn/core/picture';
import { formatById } from './formats/index.js';
import { type IndexedClip } from './frame-index.js';
import { lastPictureOf } from './render/last-picture.js';
import { ClipFolder, indexed, renderPlain } from './testing/clips.js';

/** What is made to be looked at of an HDR clip that is all one grey, against what the page shows. */

const GREY = 0x94;

describe('HDR that is looked at', () => {
  let clips: ClipFolder;
  let file: string;
  let clip: IndexedClip;
  const shown = [0, 0, 0];
  beforeAll(async () => {
    clips = await ClipFolder.open();
    const grey = GREY.toString(16);
    const tags = ['-color_trc', 'smpte2084', '-color_primaries', 'bt2020', '-colorspace', 'bt2020nc', '-color_range', 'tv']; // prettier-ignore
    const source = ['-f', 'lavfi', '-i', `color=c=0x${grey.repeat(3)}:s=320x180:r=25:d=0.6`];
    const matrix = ['-vf', 'scale=out_color_matrix=bt2020:out_range=tv'];
    file = await clips.make(
      'grey.mp4',
      ...source,
      ...matrix,
      '-c:v',
      'libx264',
      '-pix_fmt',
      'yuv420p10le',
      ...tags,
    );
    clip = await indexed(file);
    ToneMap.for(clip.info.colour)!.show(GREY, GREY, GREY, shown);
  });
  afterAll(() => clips.remove());

  const meanOf = async (picture: string | Buffer) => {
    const { channels } = await sharp(picture).flatten().stats();
    return channels[0].mean;
  };

  it('has codes that are far from how they look', () => {
    expect(Math.abs(shown[0] - GREY)).toBeGreaterThan(30);
  });

  it.each(['gif', 'webp'])('as %s is as the page shows it', async (format) => {
    const out = clips.at(`look.${format}`);
    await renderPlain(file, clip, out, { format });
    expect(Math.abs((await meanOf(out)) - shown[0])).toBeLessThan(4);
  });

  it('as the last picture of a render is, too; the render itself has its codes', async () => {
    const out = clips.at('out.mp4');
    await renderPlain(file, clip, out, { format: 'hevc-mp4' });
    expect(
      Math.abs((await meanOf(await lastPictureOf(out, formatById('hevc-mp4')))) - shown[0]),
    ).toBeLessThan(8);
  });

  it('of ordinary light stays as it is', async () => {
    const plain = await clips.make('plain-grey.mp4', '-f', 'lavfi', '-i', 'color=c=0x949494:s=320x180:r=25:d=0.6', '-c:v', 'libx264', '-pix_fmt', 'yuv420p'); // prettier-ignore
    const out = clips.at('plain.gif');
    await renderPlain(plain, await indexed(plain), out, { format: 'gif' });
    expect(Math.abs((await meanOf(out)) - GREY)).toBeLessThan(4);
  });
});
