import { alphaFromSchema, isOverSource, overColourSchema, overSourceSchema, type AlphaFrom } from '@shale/core';
import { ColourField, Decimal } from '../../../pieces/numberFields.tsx';
import { Choice, Pair } from '../../../pieces/slimFields.tsx';
import { SourcePicker } from '../../../pieces/SourcePicker.tsx';
import { light, type Working } from './fields.tsx';

const ends = [
  ['stop', 'stop the run'],
  ['hold', 'hold the nearest frame'],
  ['loop', 'loop'],
] as const;

/** How frames of a second source go with those of the first. */
function AlongFields({
  offset,
  ends: now,
  onSay,
}: Pick<AlphaFrom, 'offset' | 'ends'> & { onSay: (part: Partial<Pick<AlphaFrom, 'offset' | 'ends'>>) => void }) {
  return (
    <Pair>
      <Decimal
        label="Delay, frames"
        value={offset}
        least={-1_000_000}
        most={1_000_000}
        onSay={(value) => Number.isInteger(value) && onSay({ offset: value })}
      />
      <Choice label="When it ends" value={now} options={ends} onSay={(one) => onSay({ ends: one })} />
    </Pair>
  );
}

export function OverFields({ picture, set }: Working) {
  const { over } = picture;
  const kind = over === null ? 'nothing' : isOverSource(over) ? 'source' : 'colour';
  const say = (one: string) => {
    if (one === 'nothing') set({ over: null });
    else if (one === 'colour') set({ over: overColourSchema.parse({ colour: [0.5, 0.5, 0.5] }) });
  };
  return (
    <>
      <Pair>
        <Choice
          label="Laid over"
          value={kind}
          options={[
            ['nothing', 'nothing'],
            ['colour', 'a colour'],
            // Chosen below, by its name.
            ...(kind === 'source' ? [['source', 'another source'] as const] : []),
          ]}
          onSay={say}
        />
        {over && (
          <Choice
            label="Blend colours"
            value={over.light}
            options={light}
            onSay={(one) => set({ over: { ...over, light: one } })}
          />
        )}
      </Pair>
      {over && !isOverSource(over) && (
        <ColourField label="Colour" value={over.colour} onSay={(colour) => set({ over: { ...over, colour } })} />
      )}
      <SourcePicker
        label="Or over a still or sequence"
        value={isOverSource(over) ? over.source : null}
        onSay={(source) => set({ over: isOverSource(over) ? { ...over, source } : overSourceSchema.parse({ source }) })}
      />
      {isOverSource(over) && (
        <>
          <AlongFields {...over} onSay={(part) => set({ over: { ...over, ...part } })} />
          <Pair>
            <Choice
              label="It is"
              value={over.fit}
              options={[
                ['cover', 'cover'],
                ['within', 'fit'],
                ['own', 'its own size'],
              ]}
              onSay={(fit) => set({ over: { ...over, fit: fit } })}
            />
            <Decimal
              label="Then scale, %"
              value={over.scale}
              least={0.1}
              most={10_000}
              onSay={(scale) => set({ over: { ...over, scale } })}
            />
            <Decimal
              label="Move right, pixels"
              value={over.right}
              least={-65_536}
              most={65_536}
              onSay={(right) => set({ over: { ...over, right } })}
            />
            <Decimal
              label="Move down, pixels"
              value={over.down}
              least={-65_536}
              most={65_536}
              onSay={(down) => set({ over: { ...over, down } })}
            />
            <Decimal
              label="Rotate clockwise, degrees"
              value={over.rotation}
              least={-360}
              most={360}
              onSay={(rotation) => set({ over: { ...over, rotation } })}
            />
          </Pair>
        </>
      )}
    </>
  );
}

export function AlphaFromFields({ picture, set }: Working) {
  const { alphaFrom } = picture;
  const say = (part: Partial<AlphaFrom>) => alphaFrom && set({ alphaFrom: { ...alphaFrom, ...part } });
  return (
    <>
      {alphaFrom && (
        <Choice
          label="Alpha"
          value="other"
          options={[
            ['other', 'of another source'],
            ['own', 'its own'],
          ]}
          onSay={(one) => one === 'own' && set({ alphaFrom: null })}
        />
      )}
      <SourcePicker
        label="Alpha from"
        value={alphaFrom?.source ?? null}
        onSay={(source) => set({ alphaFrom: alphaFromSchema.parse({ ...alphaFrom, source }) })}
      />
      {alphaFrom && (
        <>
          <AlongFields {...alphaFrom} onSay={say} />
          <Pair>
            <Choice
              label="Use its"
              value={`${alphaFrom.use}${alphaFrom.inverted ? ' inverted' : ''}`}
              options={[
                ['luma', 'luma: white is opaque'],
                ['luma inverted', 'luma: black is opaque'],
                ['alpha', 'alpha'],
                ['alpha inverted', 'alpha, inverted'],
              ]}
              onSay={(one) =>
                say({ use: one.startsWith('alpha') ? 'alpha' : 'luma', inverted: one.endsWith('inverted') })
              }
            />
            <Choice
              label="Colour is"
              value={alphaFrom.premultiplied ? 'yes' : 'no'}
              options={[
                ['no', 'straight'],
                ['yes', 'premultiplied by it'],
              ]}
              onSay={(one) => say({ premultiplied: one === 'yes' })}
            />
          </Pair>
        </>
      )}
    </>
  );
}
