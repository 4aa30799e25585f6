import { parseSpec, withFormat, type Spec } from '@shale/core';
import { freeAfter } from './free.ts';

/** What the page does: the spec, and what is wanted of its pixels. */
class Page {
  spec: Spec = parseSpec({
    version: 1,
    write: { format: 'png', sample: 'u16', alpha: 'straight', transfer: 'srgb' },
  });
  free = this.spec.write;

  set(part: Partial<Spec['write']>): void {
    const next = { ...this.spec, write: { ...this.spec.write, ...part } };
    this.free = freeAfter(this.free, this.spec.write, next.write);
    this.spec = next;
  }

  format(format: Spec['write']['format']): Pick<Spec['write'], 'alpha' | 'sample' | 'transfer'> {
    this.spec = withFormat(this.spec, format, this.free);
    const { alpha, sample, transfer } = this.spec.write;
    return { alpha, sample, transfer };
  }
}

test('a format that was tried leaves no trace', () => {
  const page = new Page();
  expect(page.format('jpeg')).toEqual({ alpha: 'none', sample: 'u8', transfer: 'srgb' });
  page.set({ quality: 70 });
  expect(page.format('exr')).toEqual({ alpha: 'premultiplied', sample: 'f16', transfer: 'linear' });
  expect(page.format('tiff')).toEqual({ alpha: 'straight', sample: 'u16', transfer: 'srgb' });
  expect(page.format('png')).toEqual({ alpha: 'straight', sample: 'u16', transfer: 'srgb' });
  expect(page.spec.write.quality).toBe(70);
});

test('what was chosen by itself stays', () => {
  const page = new Page();
  page.set({ alpha: 'none' });
  page.format('jpeg');
  expect(page.format('png').alpha).toBe('none');
  page.format('exr');
  page.set({ transfer: 'linear', sample: 'f32' });
  expect(page.format('png')).toEqual({ alpha: 'none', sample: 'u8', transfer: 'srgb' });
  page.set({ transfer: 'bt709' });
  page.format('jpeg');
  expect(page.format('tiff').transfer).toBe('bt709');
});
