import Box from '@mui/material/Box';
import type { LookView, Rate, Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { takenVersion } from '../../api/api.ts';
import { Segments } from '../../pieces/Segments.tsx';
import type { StageSource } from '../../stage/frames.ts';
import type { Place } from '../../stage/place.ts';
import { Stage } from '../../stage/Stage.tsx';
import { StageControls } from '../../stage/StageControls.tsx';
import type { SoundUnder } from '../../sound/useUnder.ts';
import { CropOverlay } from './picture/CropOverlay.tsx';
import { ResultView } from './picture/ResultView.tsx';
import { proofKey } from './useProof.ts';

/** What the stage may show: the source, its results in their own time, what becomes of the frame, or the source against frames that were really made. */
export type Look = 'source' | 'time' | 'proof' | LookView;

const looks: readonly (readonly [Look, string])[] = [
  ['source', 'Source'],
  ['time', 'Timing'],
  ['result', 'Result'],
  ['matte', 'Matte'],
  ['status', 'Opacity zones'],
  ['losses', 'Losses'],
  ['proof', 'Proof'],
];

/** What is looked at when a key or a proof is being made: left out where there is little room. */
const rare: ReadonlySet<Look> = new Set(['matte', 'status', 'proof']);

interface Props {
  source: ListedSource;
  spec: Spec;
  /** The spec once it has been left alone for a moment: results are made for it. */
  rested: Spec;
  change: (next: Spec) => void;
  look: Look;
  onLook: (look: Look) => void;
  /** Whether the crop is being set. */
  crops: boolean;
  /** Whether there is little room: only what is needed to step through is below the stage. */
  small?: boolean;
  /** What is heard with the frames. */
  sound?: SoundUnder | null;
  /** The results in their own time, and their rate; null where that is the source's. */
  row?: { source: StageSource; rate: Rate | null } | null;
}

/** The stage of Convert: the source, the result, or frames that were tried. */
export function Looked({
  source,
  spec,
  rested,
  change,
  look,
  onLook,
  crops,
  small = false,
  sound = null,
  row = null,
}: Props) {
  const { picture } = spec;
  const rate = source.declaration.rate.value;
  // Turned, the picture on the stage is not the one that is cropped; numbers serve then.
  const isUpright = picture.turn === 0 && picture.flip === 'none';
  const cropOver = (place: Place) => (
    <CropOverlay
      place={place}
      size={source.facts!}
      crop={picture.crop}
      onCrop={(crop) => change({ ...spec, picture: { ...picture, crop } })}
    />
  );
  const isProof = look === 'proof';
  const timed = look === 'time' ? row : null;
  const offered = looks.filter(([one]) => !(small && rare.has(one)) && (one !== 'time' || row !== null));
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: 'minmax(0, 1fr)',
        gridTemplateRows: 'minmax(0, 1fr) auto',
        rowGap: 0.75,
        minHeight: 0,
      }}
    >
      <Box sx={{ position: 'relative', display: 'grid', minHeight: 0 }}>
        {timed ? (
          <Stage source={timed.source} rate={timed.rate} sound={sound} headRoom={36} />
        ) : look === 'source' || look === 'time' || isProof ? (
          <Stage
            source={source}
            rate={rate}
            sound={sound}
            over={crops && isUpright && source.facts && look === 'source' ? cropOver : undefined}
            {...(isProof ? { against: proofKey(source.id), label: 'Source' } : {})}
            otherLabel="Proof"
            headRoom={36}
            noPartner="No proof of this frame yet"
          />
        ) : (
          <ResultView source={source} spec={rested} view={look} version={takenVersion(source)} />
        )}
        <Box sx={{ position: 'absolute', right: 10, top: 10 }}>
          <Segments label="Look at" value={look} options={offered} onChoose={onLook} />
        </Box>
      </Box>
      <StageControls
        source={timed?.source ?? source}
        rate={timed ? timed.rate : rate}
        looks={!small && (look === 'source' || look === 'time' || isProof)}
        small={small}
        sounds={sound !== null}
        marks={false}
      />
    </Box>
  );
}
