import { yuvToRgb, type ColourCoding } from './colour';

function rgb(coding: ColourCoding, yuv: readonly number[], height = 1080): number[] {
  const { matrix, offset } = yuvToRgb(coding, height);
  const d = yuv.map((v, i) => v / 255 - offset[i]);
  return [0, 1, 2].map((r) =>
    Math.round(255 * (matrix[r] * d[0] + matrix[3 + r] * d[1] + matrix[6 + r] * d[2])),
  );
}

describe('luma and chroma to red, green and blue', () => {
  const tv: ColourCoding = { range: 'tv', space: 'bt709' };

  it('takes limited-range black and white to 0 and 255, full range as it is', () => {
    expect(rgb(tv, [16, 128, 128])).toEqual([0, 0, 0]);
    expect(rgb(tv, [235, 128, 128])).toEqual([255, 255, 255]);
    expect(rgb({ range: 'pc', space: 'bt709' }, [200, 128, 128])).toEqual([200, 200, 200]);
  });

  it('gives pure colours of BT.709 and BT.601 back (ITU-R BT.709 and BT.601, eight bits)', () => {
    const near = (a: number[], b: number[]) =>
      a.forEach((v, i) => expect(Math.abs(v - b[i])).toBeLessThanOrEqual(2));
    near(rgb(tv, [63, 102, 240]), [255, 0, 0]);
    near(rgb(tv, [173, 42, 26]), [0, 255, 0]);
    near(rgb({ range: 'tv', space: 'smpte170m' }, [81, 90, 240]), [255, 0, 0]);
  });

  it('goes by the height where the file does not tell', () => {
    const untold: ColourCoding = { range: 'tv', space: null };
    expect(rgb(untold, [63, 102, 240], 1080)).toEqual(rgb(tv, [63, 102, 240]));
    expect(rgb(untold, [81, 90, 240], 480)).toEqual(rgb({ range: 'tv', space: 'bt470bg' }, [81, 90, 240]));
  });
});
