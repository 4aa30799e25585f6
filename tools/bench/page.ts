import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from '@playwright/test';
import { chromiumOptions } from '../../e2e/chromium.ts';
import { House } from '../../e2e/house.ts';
import { putTiny } from './scan.ts';

const rows = 100_000;

/** Names that make no sequence: words without a digit. */
const word = (at: number): string => {
  const letters = Array.from({ length: 5 }, (_, place) => 'abcdefghij'[Math.floor(at / 10 ** place) % 10]!);
  return `still_${letters.reverse().join('')}.png`;
};

/** Frames that the browser draws in a second while a list is scrolled by `step` pixels each. */
async function scroll(page: Page, step: number): Promise<{ rate: number; slowest: number; empty: number }> {
  return page.evaluate(async (pixels) => {
    const box = document.querySelector('[data-testid=virtuoso-scroller]')!;
    const times: number[] = [];
    let empty = 0;
    await new Promise<void>((done) => {
      const begin = performance.now();
      const draw = (now: number) => {
        times.push(now);
        box.scrollTop += pixels;
        if (document.querySelectorAll('[role=option]').length === 0) empty += 1;
        if (now - begin < 4000) requestAnimationFrame(draw);
        else done();
      };
      requestAnimationFrame(draw);
    });
    const gaps = times.slice(1).map((time, at) => time - times[at]!);
    const spent = times[times.length - 1]! - times[0]!;
    return { rate: (gaps.length * 1000) / spent, slowest: Math.max(...gaps), empty: empty / times.length };
  }, step);
}

/** Intake over 100,000 rows, in the real page: time to the first row, and frames a second while scrolling. */
export async function pageBench(): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'shale-rows-'));
  const house = new House();
  const browser = await chromium.launch(chromiumOptions);
  try {
    putTiny(join(folder, 'store'), rows, word);
    await writeFile(
      join(house.data, 'shale.config.json'),
      JSON.stringify({ roots: [{ id: 'store', name: 'Store', path: folder }] }),
    );
    await house.start();
    const began = performance.now();
    for (;;) {
      const [root] = await house.get<{ scanning: boolean; sources: number }[]>('/roots');
      if (root && !root.scanning && root.sources > 0) break;
      await new Promise((done) => setTimeout(done, 500));
    }
    console.log(
      `\nIntake with ${rows.toLocaleString('en-GB')} sources, scanned and entered in ${((performance.now() - began) / 1000).toFixed(1)} s`,
    );
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    // What runs TypeScript here names inner functions by a helper that the page does not have.
    await page.addInitScript('globalThis.__name = (work) => work');
    const open = async () => {
      const start = performance.now();
      await page.goto(`${house.url}/intake`);
      await page.getByRole('option').first().waitFor();
      return performance.now() - start;
    };
    const cold = await open();
    const warm = await open();
    console.log(`  first row after ${cold.toFixed(0)} ms, opened again after ${warm.toFixed(0)} ms`);
    for (const [words, step] of [
      ['slowly, 12 px a frame', 12],
      ['fast, 600 px a frame', 600],
    ] as const) {
      const { rate, slowest, empty } = await scroll(page, step);
      console.log(
        `  scrolling ${words}: ${rate.toFixed(1)} frames/s, slowest frame ${slowest.toFixed(0)} ms, rows still on their way in ${(empty * 100).toFixed(0)} % of the frames`,
      );
    }
  } finally {
    await browser.close();
    await house.leave();
    await rm(folder, { recursive: true, force: true });
  }
}
