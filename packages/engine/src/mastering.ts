import type { ClipInfo } from '@lurn/model';
import { asFile, ffprobePath, LOCAL_ONLY, runTool } from './tools.js';

export type Mastering = NonNullable<ClipInfo['colour']['mastering']>;

interface SideData {
  readonly side_data_type?: string;
  readonly [name: string]: string | number | undefined;
}

/** Chromaticities are counted by fifty-thousandths, light by ten-thousandths of a candela a square metre (SMPTE ST 2086). */
const [PLACES, LIGHT] = [50_000, 10_000];

/** The screen that HDR was graded on and how bright its pictures are, as the first picture tells; null where it does not. */
export async function masteringOf(
  path: string,
  stream: number,
  signal?: AbortSignal,
): Promise<Mastering | null> {
  const { status, stdout } = await runTool(
    ffprobePath(),
    [
      ...[...LOCAL_ONLY, '-v', 'error', '-print_format', 'json', '-select_streams', String(stream)],
      ...['-read_intervals', '%+#1', '-show_frames', '-show_entries', 'frame=side_data_list', asFile(path)],
    ],
    { seconds: 60, signal },
  );
  if (status !== 0) return null;
  const { frames = [] } = JSON.parse(stdout) as { frames?: { side_data_list?: SideData[] }[] };
  const list = frames[0]?.side_data_list ?? [];
  const of = (type: string) => list.find((s) => s.side_data_type?.startsWith(type));
  const [screen, light] = [of('Mastering display'), of('Content light')];
  const told = { display: screen ? displayOf(screen) : null, light: light ? lightOf(light) : null };
  return told.display || told.light ? told : null;
}

function displayOf(screen: SideData): string | null {
  const whole = (name: string, unit: number) => {
    const [above, below = '1'] = String(screen[name] ?? '').split('/');
    return Math.round((Number(above) / Number(below)) * unit);
  };
  const place = (name: string) => [whole(`${name}_x`, PLACES), whole(`${name}_y`, PLACES)];
  const [g, b, r, w] = ['green', 'blue', 'red', 'white_point'].map(place);
  const range = [whole('max_luminance', LIGHT), whole('min_luminance', LIGHT)];
  if (![...g, ...b, ...r, ...w, ...range].every(Number.isFinite)) return null;
  return `G(${g.join(',')})B(${b.join(',')})R(${r.join(',')})WP(${w.join(',')})L(${range.join(',')})`;
}

function lightOf({ max_content: most, max_average: mean }: SideData): string | null {
  return Number.isFinite(Number(most)) && Number.isFinite(Number(mean)) ? `${most},${mean}` : null;
}
