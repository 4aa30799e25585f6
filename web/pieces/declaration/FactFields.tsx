import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import {
  alphaWords,
  colourOfHex,
  declaredTransferSchema,
  hexOf,
  parseRate,
  pixelAspectSchema,
  primariesSchema,
  primariesWords,
  printRate,
  problemOf,
  rateFraction,
  standardRates,
  transferWords,
  type AlphaKind,
  type Colour,
  type Declaration,
  type FactName,
  type Rate,
  type Word,
} from '@shale/core';

/** The facts that a source is declared by, in the order in which they are asked for. */
export const factLabels: Record<FactName, string> = {
  rate: 'Rate',
  alpha: 'Alpha',
  transfer: 'Transfer',
  primaries: 'Primaries',
  first: 'First frame',
  pixelAspect: 'Pixel aspect',
  matte: 'On colour',
};

const alphas: [AlphaKind, string][] = [
  ['straight', 'straight'],
  ['premultiplied', 'premultiplied on black'],
  ['on-colour', 'premultiplied on a colour'],
  ['ignore', alphaWords.ignore],
  ['none', 'none'],
];

/** Shapes of pixels that footage of the trade has: square, squeezed two to one, and the ones of 525- and 625-line video. */
const aspects = ['1/1', '2/1', '4/3', '10/11', '40/33', '12/11', '16/11'];

/** Ratios as their fraction: `10/11`. */
const fraction = ({ num, den }: { num: number; den: number }): string => `${num}/${den}`;

function readAspect(text: string): NonNullable<Word['pixelAspect']> {
  const match = /^\s*(\d{1,6})\s*[/:]\s*(\d{1,6})\s*$/.exec(text);
  return pixelAspectSchema.parse({ num: Number(match?.[1]), den: Number(match?.[2]) });
}

function refusalOf(work: () => unknown, otherwise: string): string | undefined {
  try {
    work();
    return undefined;
  } catch (error) {
    const { code, fact, wayOut } = problemOf(error);
    return code === 'internal' ? otherwise : `${fact} ${wayOut}`;
  }
}

const other = 'other';

interface FieldProps<K extends FactName> {
  fact: K;
  value: Declaration[K]['value'];
  /** What stands where nothing is declared, or where many sources are left as they are. */
  placeholder?: string;
  disabled?: boolean;
  onSay: (value: NonNullable<Word[K]>) => void;
}

interface Options {
  listed: [value: string, words: string][];
  /** Reads a value that is typed; absent where only the listed ones can be. */
  typed?: { hint: string; refuse: (text: string) => string | undefined };
}

function optionsOf(fact: FactName, current: string): Options {
  const withCurrent = (list: string[]) => (current === '' || list.includes(current) ? list : [...list, current]);
  switch (fact) {
    case 'rate':
      return {
        listed: withCurrent(standardRates.map(rateFraction)).map((text) => [
          text,
          `${printRate(parseRate(text))}${text.includes('/') ? ` (${text})` : ''}`,
        ]),
        typed: { hint: '24, 23.976 or 24000/1001', refuse: (text) => refusalOf(() => parseRate(text), '') },
      };
    case 'alpha':
      return { listed: alphas };
    case 'transfer':
      return { listed: declaredTransferSchema.options.map((value) => [value, transferWords[value]]) };
    case 'primaries':
      return { listed: primariesSchema.options.map((value) => [value, primariesWords[value]]) };
    case 'pixelAspect':
      return {
        listed: withCurrent(aspects).map((text) => [text, text === '1/1' ? 'square' : text]),
        typed: {
          hint: 'width/height, as 10/11',
          refuse: (text) => refusalOf(() => readAspect(text), 'Write it as width/height, both whole, such as 10/11.'),
        },
      };
    case 'matte':
      return {
        listed: withCurrent(['#ffffff', '#808080', '#000000']).map((text) => [text, text]),
        typed: {
          hint: 'as stored, #1a2b3c',
          refuse: (text) => (colourOfHex(text) ? undefined : 'Write it as #1a2b3c.'),
        },
      };
    case 'first':
      return {
        listed: withCurrent(['0', '1', '1001']).map((text) => [text, text]),
        typed: {
          hint: 'a whole number',
          refuse: (text) => (/^-?\d{1,8}$/.test(text.trim()) ? undefined : 'Write a whole number, such as 1001.'),
        },
      };
  }
}

const textOf = (fact: FactName, value: unknown): string => {
  if (value === null || value === undefined) return '';
  if (fact === 'rate') return rateFraction(value as Rate);
  if (fact === 'matte') return hexOf(value as Colour);
  return fact === 'pixelAspect' ? fraction(value as Rate) : String(value);
};

function valueOf(fact: FactName, text: string): unknown {
  if (fact === 'rate') return parseRate(text);
  if (fact === 'pixelAspect') return readAspect(text);
  if (fact === 'matte') return colourOfHex(text);
  return fact === 'first' ? Number(text) : text;
}

/** One fact as a field: the usual values to choose from, any other to type where there are others. */
export function FactField<K extends FactName>({
  fact,
  value,
  placeholder = 'not declared',
  disabled,
  onSay,
}: FieldProps<K>) {
  const [typed, setTyped] = useState<string | null>(null);
  const current = textOf(fact, value);
  const { listed, typed: typing } = optionsOf(fact, current);
  const say = (text: string) => {
    if (typing && typing.refuse(text) !== undefined) return setTyped(text);
    onSay(valueOf(fact, text) as NonNullable<Word[K]>);
    setTyped(null);
  };
  if (typed !== null && typing) {
    const refusal = typed === '' ? undefined : typing.refuse(typed);
    return (
      <TextField
        autoFocus
        fullWidth
        placeholder={typing.hint}
        value={typed}
        error={refusal !== undefined}
        helperText={refusal}
        onChange={({ target }) => setTyped(target.value)}
        onKeyDown={({ key }) => (key === 'Enter' ? say(typed) : key === 'Escape' && setTyped(null))}
        onBlur={() => (typed === '' ? setTyped(null) : say(typed))}
        slotProps={{ htmlInput: { 'aria-label': fact === 'rate' ? 'Rate in frames per second' : factLabels[fact] } }}
      />
    );
  }
  return (
    <TextField
      select
      fullWidth
      value={current}
      disabled={disabled}
      onChange={({ target }) => (target.value === other ? setTyped('') : say(target.value))}
      slotProps={{ htmlInput: { 'aria-label': factLabels[fact] }, select: { displayEmpty: true } }}
    >
      <MenuItem value="" disabled>
        {placeholder}
      </MenuItem>
      {listed.map(([option, words]) => (
        <MenuItem key={option} value={option}>
          {words}
        </MenuItem>
      ))}
      {typing && <MenuItem value={other}>{fact === 'rate' ? 'another rate' : 'another'}</MenuItem>}
    </TextField>
  );
}
