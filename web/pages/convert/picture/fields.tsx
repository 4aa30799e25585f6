import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { ReactNode } from 'react';
import {
  filterSchema,
  filterWords,
  keySchema,
  levelsSchema,
  padSchema,
  resizeSchema,
  screens,
  type Picture,
  type Problem,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { ProblemNote } from '../../../pieces/Notes.tsx';
import { ColourField, Decimal } from '../../../pieces/numberFields.tsx';
import { Choice, Pair, Whole } from '../../../pieces/slimFields.tsx';

/** What every group of fields gets. */
export interface Working {
  source: ListedSource;
  picture: Picture;
  set: (part: Partial<Picture>) => void;
}

export const light = [
  ['stored', 'as stored'],
  ['linear', 'in linear light'],
] as const;

const Off = ({ onOff, children = 'Leave it out' }: { onOff: () => void; children?: ReactNode }) => (
  <Button size="small" sx={{ justifySelf: 'start', px: 1, ml: -1 }} onClick={onOff}>
    {children}
  </Button>
);

const Hint = ({ children }: { children: ReactNode }) => (
  <Typography sx={{ fontSize: 12.5, color: 'text.secondary' }}>{children}</Typography>
);

export function LayerFields({ source, picture, set }: Working) {
  const { layers = [], window } = source.facts ?? {};
  if (layers.length === 0 && !window && picture.window === 'kept')
    return <Hint>The files have only their main picture.</Hint>;
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }}>
      {layers.length > 0 && (
        <Choice
          label="Layer"
          value={picture.layer ?? ''}
          options={[['', 'the main picture'], ...layers.map((name) => [name, name] as const)]}
          onSay={(layer) => set({ layer: layer === '' ? null : layer })}
        />
      )}
      {(window !== undefined || picture.window !== 'kept') && (
        <>
          <Choice
            label="Window"
            value={picture.window}
            options={[
              ['kept', 'kept where the result can hold it'],
              ['display', 'cut to what is shown'],
              ['data', 'all of the data window'],
            ]}
            onSay={(chosen) => set({ window: chosen })}
          />
          {window && (
            <Hint>
              The pixels of the first frame are {window.width} x {window.height}, from {window.left}, {window.top} on.
            </Hint>
          )}
        </>
      )}
    </Box>
  );
}

export function OrientFields({ picture, set }: Working) {
  return (
    <Pair>
      <Choice
        label="Turn, clockwise"
        value={String(picture.turn)}
        options={[
          ['0', 'none'],
          ['90', 'a quarter, 90°'],
          ['180', 'half, 180°'],
          ['270', 'three quarters, 270°'],
        ]}
        onSay={(turn) => set({ turn: Number(turn) as 90 })}
      />
      <Choice
        label="Flip"
        value={picture.flip}
        options={[
          ['none', 'none'],
          ['across', 'left to right'],
          ['down', 'top to bottom'],
        ]}
        onSay={(flip) => set({ flip })}
      />
    </Pair>
  );
}

interface CropProps extends Working {
  /** The size of the picture once turned. */
  turned: { width: number; height: number };
  /** Crops to all that is not clear, or with the middle where it was. */
  onFit: (isCentred: boolean) => void;
  fitting: boolean;
  fitProblem?: Problem;
}

export function CropFields({ picture, set, turned, onFit, fitting, fitProblem }: CropProps) {
  const box = picture.crop ?? { left: 0, top: 0, ...turned };
  const say = (part: Partial<typeof box>) => set({ crop: { ...box, ...part } });
  return (
    <>
      <Pair>
        <Whole label="From the left" value={box.left} onSay={(left) => left !== null && say({ left })} />
        <Whole label="From the top" value={box.top} onSay={(top) => top !== null && say({ top })} />
        <Whole label="Width" value={box.width} onSay={(width) => width !== null && width > 0 && say({ width })} />
        <Whole label="Height" value={box.height} onSay={(height) => height !== null && height > 0 && say({ height })} />
      </Pair>
      <Hint>Or drag over the picture.</Hint>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button size="small" variant="outlined" disabled={fitting} onClick={() => onFit(false)}>
          {fitting ? 'Reading every frame' : 'Fit to content'}
        </Button>
        <Button size="small" variant="outlined" disabled={fitting} onClick={() => onFit(true)}>
          Fit, centred
        </Button>
        <Button size="small" disabled={picture.crop === null} onClick={() => set({ crop: null })}>
          Keep all
        </Button>
      </Box>
      {fitProblem && <ProblemNote problem={fitProblem} />}
    </>
  );
}

export function KeyFields({ picture, set }: Working) {
  const { key } = picture;
  if (!key) {
    return (
      <Box sx={{ display: 'flex', gap: 1 }}>
        {(['green', 'blue'] as const).map((screen) => (
          <Button
            key={screen}
            size="small"
            variant="outlined"
            onClick={() => set({ key: keySchema.parse({ colour: screens[screen] }) })}
          >
            Take a {screen} screen out
          </Button>
        ))}
      </Box>
    );
  }
  const say = (part: Partial<typeof key>) => set({ key: { ...key, ...part } });
  return (
    <>
      <ColourField label="Colour of the screen" value={key.colour} onSay={(colour) => say({ colour })} />
      <Pair>
        <Decimal label="Tolerance" value={key.tolerance} least={0} most={1} onSay={(tolerance) => say({ tolerance })} />
        <Decimal label="Softness" value={key.softness} least={0} most={1} onSay={(softness) => say({ softness })} />
        <Decimal label="Spill removal, 0 to 1" value={key.spill} least={0} most={1} onSay={(spill) => say({ spill })} />
      </Pair>
      <Hint>View it as Result, Matte or Opacity zones above the picture.</Hint>
      <Off onOff={() => set({ key: null })} />
    </>
  );
}

export function SizeFields({ picture, set, source }: Working) {
  const resize =
    picture.resize ?? resizeSchema.parse({ to: { by: 'size', width: null, height: null }, filter: 'lanczos' });
  const { to } = resize;
  const { width = 1920, height = 1080 } = source.facts ?? {};
  const ways = {
    keep: () => set({ resize: null }),
    size: () => set({ resize: { ...resize, to: { by: 'size', width, height: null } } }),
    percent: () => set({ resize: { ...resize, to: { by: 'percent', percent: 50 } } }),
    limit: () =>
      set({ resize: { ...resize, to: { by: 'limit', width: Math.min(width, 1920), height: Math.min(height, 1080) } } }),
    square: () => set({ resize: { ...resize, to: { by: 'square' } } }),
  };
  const say = (next: typeof to) => set({ resize: { ...resize, to: next } });
  return (
    <>
      <Choice
        label="Size"
        value={picture.resize ? to.by : 'keep'}
        options={[
          ['keep', 'as it is'],
          ['size', 'width and height'],
          ['percent', 'percent'],
          ['limit', 'no larger than'],
          ['square', 'square pixels by the pixel aspect'],
        ]}
        onSay={(way) => ways[way]()}
      />
      {picture.resize && (
        <>
          {to.by === 'size' && (
            <Pair>
              <Whole
                label="Width"
                value={to.width}
                placeholder="in proportion"
                onSay={(w) => w !== 0 && say({ ...to, width: w })}
              />
              <Whole
                label="Height"
                value={to.height}
                placeholder="in proportion"
                onSay={(h) => h !== 0 && say({ ...to, height: h })}
              />
            </Pair>
          )}
          {to.by === 'percent' && (
            <Decimal
              label="Percent"
              value={to.percent}
              least={0.1}
              most={10_000}
              onSay={(percent) => say({ ...to, percent })}
            />
          )}
          {to.by === 'limit' && (
            <Pair>
              <Whole label="Maximum width" value={to.width} onSay={(w) => w && say({ ...to, width: w })} />
              <Whole label="Maximum height" value={to.height} onSay={(h) => h && say({ ...to, height: h })} />
            </Pair>
          )}
          <Pair>
            <Choice
              label="Filter"
              value={resize.filter}
              options={filterSchema.options.map((one) => [
                one,
                one === 'nearest' ? 'nearest, for pixel art' : filterWords[one],
              ])}
              onSay={(filter) => set({ resize: { ...resize, filter: filter } })}
            />
            <Choice
              label="Blend colours"
              value={resize.light}
              options={light}
              onSay={(one) => set({ resize: { ...resize, light: one } })}
            />
          </Pair>
        </>
      )}
    </>
  );
}

export function PadFields({ picture, set }: Working) {
  const { pad } = picture;
  return (
    <Pair>
      <Whole
        label="Pad sides to a multiple of"
        value={pad?.multiple ?? null}
        placeholder="any number"
        onSay={(multiple) => {
          if (multiple === null || multiple < 2) set({ pad: null });
          else if (multiple <= 4096) set({ pad: padSchema.parse({ ...pad, multiple }) });
        }}
      />
      {pad && (
        <Choice
          label="Add padding"
          value={pad.where}
          options={[
            ['end', 'right and below'],
            ['around', 'around'],
          ]}
          onSay={(where) => set({ pad: { ...pad, where: where } })}
        />
      )}
    </Pair>
  );
}

const channelNames = ['red', 'green', 'blue'] as const;

export function LevelsFields({ picture, set }: Working) {
  const levels = picture.levels ?? levelsSchema.parse({});
  const say = (part: Partial<typeof levels>) => set({ levels: { ...levels, ...part } });
  const row = (name: 'black' | 'white' | 'gamma', least: number, most: number) => (
    <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: 1 }}>
      {channelNames.map((channel, at) => (
        <Decimal
          key={channel}
          label={`${name}, ${channel}`}
          value={levels[name][at]!}
          least={least}
          most={most}
          onSay={(value) => say({ [name]: levels[name].map((old, place) => (place === at ? value : old)) })}
        />
      ))}
    </Box>
  );
  return (
    <>
      <Decimal
        label="Exposure, stops"
        value={levels.exposure}
        least={-20}
        most={20}
        onSay={(exposure) => say({ exposure })}
      />
      {row('black', -10, 10)}
      {row('white', -10, 100)}
      {row('gamma', 0.05, 20)}
      <Off onOff={() => set({ levels: null })}>Keep them</Off>
    </>
  );
}

export function RoundingFields({ picture, set }: Working) {
  return (
    <Pair>
      <Choice
        label="Values above 1, when writing integers"
        value={picture.highlights}
        options={[
          ['clip', 'clipped'],
          ['roll-off', 'rolled off from 0.8'],
        ]}
        onSay={(highlights) => set({ highlights })}
      />
      <Choice
        label="Dither to fewer bits"
        value={picture.dither}
        options={[
          ['none', 'none'],
          ['ordered', 'ordered'],
          ['diffusion', 'error diffusion'],
          ['blue-noise', 'blue noise'],
        ]}
        onSay={(dither) => set({ dither })}
      />
    </Pair>
  );
}
