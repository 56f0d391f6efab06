import { ClipFolder, indexed, picture, renderPlain } from './testing/clips.js';

const DISPLAY = 'G(13250,34500)B(7500,3000)R(34000,16000)WP(15635,16450)L(10000000,50)';

describe('mastering data of HDR', () => {
  let clips: ClipFolder;
  beforeAll(async () => {
    clips = await ClipFolder.open();
  });
  afterAll(() => clips.remove());

  it('is read, and goes on into HEVC as it was', async () => {
    const params = `log-level=none:colorprim=bt2020:transfer=smpte2084:colormatrix=bt2020nc:master-display=${DISPLAY}:max-cll=1000,400`;
    const coded = [
      '-c:v',
      'libx265',
      '-preset',
      'ultrafast',
      '-pix_fmt',
      'yuv420p10le',
      '-x265-params',
      params,
    ];
    const file = await clips.make('hdr.mp4', ...picture('320x180', 1), ...coded);
    const clip = await indexed(file);
    expect(clip.info.colour).toMatchObject({ transfer: 'smpte2084', mastering: { display: DISPLAY, light: '1000,400' } }); // prettier-ignore
    const out = clips.at('again.mp4');
    await renderPlain(file, clip, out, { format: 'hevc-mp4' });
    expect((await indexed(out)).info.colour).toEqual(clip.info.colour);
  });

  it('is not asked of what is no HDR', async () => {
    const { info } = await indexed(await clips.plain());
    expect(info.colour.mastering).toBeUndefined();
  });
});
