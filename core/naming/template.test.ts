import fc from 'fast-check';
import { printPattern } from '../numbering/pattern.ts';
import { stemOf, templatePattern } from './template.ts';

const fields = { stem: 'bell', ext: 'png' };

test.each([
  ['{stem}.{frame:4}.{ext}', 'bell.####.png'],
  ['{stem}_{frame}.{ext}', 'bell_#.png'],
  ['{stem}-####.{ext}', 'bell-####.png'],
  ['{stem}.%05d.{ext}', 'bell.#####.png'],
  ['{frame:6}.{ext}', '######.png'],
])('%s gives %s', (template, pattern) => expect(printPattern(templatePattern(template, fields))).toBe(pattern));

test.each([
  ['{stem}.{ext}', 'no frame number'],
  ['{stem}.{frame:0}.{ext}', 'a width of "0"'],
  ['{stem}.{frame:99}.{ext}', 'a width of "99"'],
  ['{name}.{frame}.{ext}', '{name}'],
  ['{stem.{frame}.{ext}', 'brace'],
  ['a/b.{frame}.{ext}', 'unfit'],
  ['..{frame}.{ext}', 'hidden'],
  ['{stem}:{frame}.{ext}', 'unfit'],
])('%s is refused: %s', (template, words) =>
  expect(() => templatePattern(template, fields)).toThrow(
    expect.objectContaining({ code: 'bad-template', fact: expect.stringContaining(words) }),
  ),
);

test('whatever the stem, a name never leaves its folder', () => {
  fc.assert(
    fc.property(fc.string({ minLength: 1, maxLength: 30 }), (stem) => {
      try {
        const name = printPattern(templatePattern('{stem}.{frame:4}.{ext}', { stem, ext: 'png' }));
        expect(name).not.toMatch(/[/\\]/);
        expect(name.startsWith('.')).toBe(false);
      } catch (error) {
        expect(error).toMatchObject({ code: 'bad-template' });
      }
    }),
  );
});

test('the stem of a pattern loses its separators only', () => {
  expect(stemOf({ prefix: 'bell_turn_', padding: 1, suffix: '.png' })).toBe('bell_turn');
  expect(stemOf({ prefix: 'pan.', padding: 4, suffix: '.exr' })).toBe('pan');
  expect(stemOf({ prefix: '', padding: 5, suffix: '.jpg' })).toBe('frame');
});
