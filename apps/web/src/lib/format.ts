/** Numbers and times as they are shown. */

export { timeCode } from '@lurn/core/formats';

export function seconds(value: number): string {
  if (value < 60) return `${value < 9.95 ? value.toFixed(1) : Math.round(value)} s`;
  return `${Math.floor(value / 60)} min ${Math.round(value % 60)} s`;
}

export function bytes(value: number): string {
  if (value < 1e6) return `${(value / 1e3).toFixed(0)} kB`;
  if (value < 1e9) return `${(value / 1e6).toFixed(1)} MB`;
  return `${(value / 1e9).toFixed(2)} GB`;
}

export function rate(fps: number): string {
  return `${Number.isInteger(fps) ? fps : fps.toFixed(3).replace(/0+$/, '')} fps`;
}

/** A length in pixels with as many decimals as mean something. */
export function pixels(value: number): string {
  if (!Number.isFinite(value)) return '–';
  return `${value < 0.0995 ? value.toFixed(3) : value < 9.95 ? value.toFixed(2) : value.toFixed(1)} px`;
}

export function percent(ratio: number, decimals = 1): string {
  return Number.isFinite(ratio) ? `${(ratio * 100).toFixed(decimals)} %` : 'none fits';
}

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`;
}

/** With a capital letter at its beginning. */
export const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
