import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, type Locator, type Page } from '@playwright/test';
import { fitScale, layOut } from '../apps/web/src/lib/view.js';
import type { Layout } from '../apps/web/src/state/slices/view.js';

export interface Truth {
  readonly clip: { width: number; height: number; frames: number; fps: number };
  readonly motion: Record<string, number[][]>;
  readonly features: { name: string; on: string; positions: [number, number][] }[];
}

export function truthOf(shot: string): Truth {
  return JSON.parse(
    readFileSync(fileURLToPath(new URL(`../demo/shots/${shot}.truth.json`, import.meta.url)), 'utf8'),
  ) as Truth;
}

/** The Bench as a person uses it: places on the picture, keys, and what the page says. */
export class BenchDriver {
  readonly picture: Locator;

  constructor(
    readonly page: Page,
    readonly size: { width: number; height: number },
  ) {
    this.picture = page.locator('[role=application]');
  }

  async open(url: string, name: string): Promise<void> {
    await this.page.goto(url);
    await this.page.getByTitle(`Open ${name} on the Bench`).click();
    await expect(this.picture).toBeVisible();
    await this.shows(/frame \d+/);
    // Seen, and what is known of its whole picture is there.
    await expect(this.picture).toHaveAttribute('aria-busy', 'false');
    // A clip of which the whole picture is known opens where it is seen steadied.
    await this.key('1');
  }

  /** Loads the page anew, until it is seen again and what is known of its whole picture is there. */
  async reload(): Promise<void> {
    await this.page.reload();
    await this.shows(/frame \d+/);
    await expect(this.picture).toHaveAttribute('aria-busy', 'false');
  }

  /** Screen place of a source pixel in the source pane, fitted, however the pictures are shown. */
  async place(x: number, y: number): Promise<[number, number]> {
    const box = (await this.picture.boundingBox())!;
    const layout = (await this.picture.getAttribute('data-layout')) as Layout;
    const pane = layOut(layout, Math.floor(box.width), Math.floor(box.height), 0.5)[0];
    const picture = { ...this.size, pixelAspect: 1 };
    const s = fitScale(picture, pane);
    return [
      box.x + pane.x + pane.width / 2 + (x - this.size.width / 2) * s,
      box.y + pane.y + pane.height / 2 + (y - this.size.height / 2) * s,
    ];
  }

  async press(x: number, y: number): Promise<void> {
    const [px, py] = await this.place(x, y);
    await this.page.mouse.move(px, py);
    await this.page.mouse.down();
    await this.page.mouse.up();
  }

  /** Types exact coordinates for the selected spot. */
  async type(x: number, y: number): Promise<void> {
    await this.field('Across, px', x);
    await this.field('Down, px', y);
  }

  async field(label: string, value: number): Promise<void> {
    const field = this.page.getByLabel(label, { exact: true }).first();
    await field.fill(String(value));
    await field.press('Enter');
    await field.blur();
  }

  async key(key: string): Promise<void> {
    await this.page.locator('body').press(key);
  }

  async saved(): Promise<void> {
    await expect(this.page.getByRole('status', { name: 'Saving' })).toHaveText('saved');
  }

  course(station: string): Locator {
    return this.page
      .getByRole('navigation', { name: 'Course' })
      .getByRole('button', { name: new RegExp(station) });
  }

  /** Ends the range on a frame: what is tracked, planned and rendered ends there, and takes the less time. */
  async endOn(frame: number): Promise<void> {
    await this.key('Home');
    for (let i = 0; i < Math.floor(frame / 10); i++) await this.key('Shift+ArrowRight');
    for (let i = 0; i < frame % 10; i++) await this.key('ArrowRight');
    await this.shows(new RegExp(`frame ${frame}\\b`));
    await this.key('o');
    await this.key('Home');
  }

  /** How many spots the course tells of. */
  async spots(): Promise<number> {
    return Number(/(\d+) spot/.exec(await this.course('Mark').innerText())?.[1] ?? 0);
  }

  async shows(text: RegExp): Promise<void> {
    await expect(this.picture).toHaveAttribute('aria-label', text);
  }

  /** Marks features by name exactly where the truth has them on a frame. */
  async mark(truth: Truth, names: readonly string[], frame = 0): Promise<void> {
    for (const name of names) {
      const [x, y] = truth.features.find((f) => f.name === name)!.positions[frame];
      await this.press(x, y);
      await this.type(x, y);
    }
  }
}
