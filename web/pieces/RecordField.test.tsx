/** @jest-environment ./web/testing/page.mjs */
import { jest } from '@jest/globals';
import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useState } from 'react';
import { z } from 'zod';
import {
  codecs,
  receiverNameFields,
  receiverPictureFields,
  videoCase,
  videoFields,
  videoSchema,
  writeSettings,
  type Field,
  type Format,
} from '@shale/core';
import { RecordField } from './RecordField.tsx';

afterEach(cleanup);

/** A field that keeps what is said, as a form does; every value that it is told goes to `said`. */
function Kept({ field, begins, said, onFault }: KeptProps) {
  const [value, setValue] = useState(begins);
  return (
    <RecordField
      field={field}
      at={undefined}
      value={value}
      onFault={onFault}
      onSay={(next) => {
        setValue(next);
        said(next);
      }}
    />
  );
}
interface KeptProps {
  field: Field;
  begins: unknown;
  said: (value: unknown) => void;
  onFault?: (fault: unknown) => void;
}

function shown(field: Field, begins: unknown) {
  const said: unknown[] = [];
  const faults: unknown[] = [];
  render(<Kept {...{ field, begins }} said={(one) => said.push(one)} onFault={(one) => faults.push(one)} />);
  return { said, faults, user: userEvent.setup() };
}

async function choose(label: string, words: string): Promise<void> {
  const user = userEvent.setup();
  await user.click(screen.getByRole('combobox', { name: label }));
  await user.click(within(screen.getByRole('listbox')).getByText(words, { exact: true }));
}

describe('a choice', () => {
  test('gives its value, a number where it is one', async () => {
    const { said } = shown(writeSettings.effort, 3);
    await choose('Effort', '9, smallest');
    expect(said).toEqual([9]);
  });

  test('may ask for nothing: an empty text is something else', async () => {
    const { said } = shown(receiverNameFields.separator, null);
    expect(screen.getByRole('combobox', { name: 'Before the number' }).textContent).toBe('any');
    await choose('Before the number', 'a dot');
    await choose('Before the number', 'nothing');
    await choose('Before the number', 'any');
    expect(said).toEqual(['.', '', null]);
  });

  test('of yes and no is true or false', async () => {
    const { said } = shown(writeSettings.lossless, true);
    await choose('Compression', 'by quality');
    expect(said).toEqual([false]);
  });
});

test('several of a list; none of them asks for nothing', async () => {
  const { said, user } = shown(receiverPictureFields.samples, ['u8']);
  await user.click(screen.getByRole('combobox', { name: 'Depths' }));
  const list = within(screen.getByRole('listbox'));
  await user.click(list.getByText('16-bit', { exact: true }));
  await user.click(list.getByText('8-bit', { exact: true }));
  await user.click(list.getByText('16-bit', { exact: true }));
  expect(said).toEqual([['u8', 'u16'], ['u16'], null]);
});

test('a mark is set and taken away', async () => {
  const { said, user } = shown(receiverNameFields.unbroken, false);
  const mark = screen.getByRole('checkbox', { name: 'No number may be missing' });
  await user.click(mark);
  await user.click(mark);
  expect(said).toEqual([true, false]);
});

describe('a number', () => {
  test('is told of where it fits the schema, and of nothing else', async () => {
    const { said, user } = shown(receiverNameFields.digits, 4);
    const field = screen.getByRole('textbox', { name: 'Digits, exactly' });
    await user.clear(field);
    // 20 digits at most.
    await user.type(field, '21');
    expect(said).toEqual([null, 2]);
    await user.clear(field);
    await user.type(field, 'x');
    expect(said).toEqual([null, 2, null]);
  });

  test('is counted in the unit of its label', async () => {
    const { said, user } = shown(receiverPictureFields.frameBytes, 3 << 20);
    const field = screen.getByRole<HTMLInputElement>('textbox', { name: 'MiB of a frame, at most' });
    expect(field.value).toBe('3');
    await user.clear(field);
    await user.type(field, '5');
    expect(said).toEqual([null, 5 << 20]);
  });

  test('with a point is bounded by its ends', async () => {
    const { said, user } = shown(writeSettings.dwaLevel, 45);
    const field = screen.getByRole('textbox', { name: 'Level, 0 best' });
    await user.clear(field);
    await user.type(field, '1000.5');
    expect(said.at(-1)).toBe(1000);
    expect(field.getAttribute('aria-invalid')).toBe('true');
  });
});

describe('a text', () => {
  test('that is a value is taken once it can be read; why it cannot be is told', async () => {
    const { said, faults, user } = shown(receiverPictureFields.rates, [{ num: 24, den: 1 }]);
    const field = screen.getByRole<HTMLInputElement>('textbox', { name: 'Rates' });
    expect(field.value).toBe('24');
    await user.type(field, ', x');
    expect(field.value).toBe('24, x');
    expect(faults.at(-1)).toMatchObject({ fact: expect.stringContaining('"x"') });
    expect(field.getAttribute('aria-invalid')).toBe('true');
    await user.type(field, '{Backspace}23.976');
    expect(said.at(-1)).toEqual([
      { num: 24, den: 1 },
      { num: 24_000, den: 1001 },
    ]);
    expect(faults.at(-1)).toBeUndefined();
    await user.clear(field);
    expect(said.at(-1)).toBeNull();
  });

  test('that may be empty is empty, not nothing', async () => {
    const { said, user } = shown(receiverNameFields.keep, '_');
    await user.clear(screen.getByRole('textbox', { name: 'Allowed besides letters' }));
    expect(said).toEqual(['']);
  });
});

test('a field that does not apply is not there', () => {
  const applies = jest.fn((wanted: boolean) => wanted);
  const field: Field<z.ZodBoolean, boolean> = { schema: z.boolean(), label: 'Kept', form: { kind: 'mark' }, applies };
  const { rerender } = render(<RecordField field={field} at={false} value onSay={() => undefined} />);
  expect(screen.queryByRole('checkbox')).toBeNull();
  rerender(<RecordField field={field} at={true} value onSay={() => undefined} />);
  expect(screen.getByRole('checkbox', { name: 'Kept' })).toBeTruthy();
});

test('a quality that the codec does not have is not taken, though another codec has it', async () => {
  const said: unknown[] = [];
  const shownFor = (id: Format) =>
    render(
      <RecordField
        field={videoFields.crf as Field<Field['schema'], ReturnType<typeof videoCase>>}
        at={videoCase({ format: id, alpha: 'straight' }, videoSchema.parse({}))}
        value={5}
        onSay={(one) => said.push(one)}
      />,
    );
  const user = userEvent.setup();
  shownFor('h264');
  await user.type(screen.getByRole('textbox'), '2');
  expect(said).toEqual([]);
  cleanup();
  shownFor('vp9');
  await user.type(screen.getByRole('textbox'), '2');
  expect(said).toEqual([52]);
});

describe('the form of a video has the fields of its codec, and no others', () => {
  const fieldsOf = (id: Format, more: object): number => {
    const video = videoSchema.parse(more);
    const at = videoCase({ format: id, alpha: 'straight' }, video);
    render(
      <>
        {Object.entries(videoFields).map(([name, field]) => (
          <RecordField
            key={name}
            field={field as Field<Field['schema'], typeof at>}
            at={at}
            value={video[name as keyof typeof videoFields]}
            onSay={() => undefined}
          />
        ))}
      </>,
    );
    return ['combobox', 'textbox', 'checkbox'].reduce((sum, role) => sum + screen.queryAllByRole(role).length, 0);
  };
  // Counted by hand from what each codec library takes.
  test.each([
    ['h264', 'quality', 11],
    ['h264', 'bitrate', 12],
    ['vp9', 'quality', 8],
    ['prores4444', 'quality', 3],
    ['ffv1', 'quality', 2],
    ['pngmov', 'quality', 3],
  ] as const)('%s by %s: %i fields', (id, control, fields) => {
    expect(codecs).toHaveProperty(id);
    expect(fieldsOf(id, { control })).toBe(fields);
  });
});
