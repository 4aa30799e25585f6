import ExpandMoreIcon from '@mui/icons-material/ExpandMore';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { useState, type ReactNode } from 'react';
import {
  centredBox,
  pictureRows,
  pictureSaid,
  turnedSize,
  type OperationKey,
  type Problem,
  type Spec,
} from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useLazyContentBoxQuery } from '../../../api/api.ts';
import {
  CropFields,
  KeyFields,
  LayerFields,
  LevelsFields,
  OrientFields,
  PadFields,
  RoundingFields,
  SizeFields,
  type Working,
} from './fields.tsx';
import { AlphaFromFields, OverFields } from './otherFields.tsx';

/** The steps in the order in which they are done. */
const steps = [
  ['layer', 'Layer'],
  ['alpha', 'Alpha'],
  ['orient', 'Orientation'],
  ['crop', 'Crop'],
  ['key', 'Key'],
  ['size', 'Size'],
  ['pad', 'Padding'],
  ['over', 'Laid over'],
  ['levels', 'Levels'],
  ['rounding', 'Rounding'],
] as const;
export type Step = (typeof steps)[number][0];

/** The step in which each operation is set. */
const stepOf: Record<OperationKey, Step> = {
  layer: 'layer',
  window: 'layer',
  alphaFrom: 'alpha',
  turn: 'orient',
  flip: 'orient',
  crop: 'crop',
  key: 'key',
  resize: 'size',
  pad: 'pad',
  over: 'over',
  levels: 'levels',
  highlights: 'rounding',
  dither: 'rounding',
};

const fields: Record<Exclude<Step, 'crop'>, (working: Working) => ReactNode> = {
  layer: LayerFields,
  alpha: AlphaFromFields,
  orient: OrientFields,
  key: KeyFields,
  size: SizeFields,
  pad: PadFields,
  over: OverFields,
  levels: LevelsFields,
  rounding: RoundingFields,
};

interface Props {
  source: ListedSource;
  spec: Spec;
  change: (spec: Spec) => void;
  /** Whether the steps are shown, and which of them is open. */
  shown: boolean;
  onShow: (shown: boolean) => void;
  open: Step | null;
  onOpen: (step: Step | null) => void;
}

/** What is done to the picture, step by step in its fixed order; a pressed step opens its fields. */
export function PictureCard({ source, spec, change, shown, onShow, open, onOpen }: Props) {
  const { picture } = spec;
  const [fit, { isFetching, error }] = useLazyContentBoxQuery();
  const [clear, setClear] = useState<Problem>();
  const set = (part: Partial<typeof picture>) => change({ ...spec, picture: { ...picture, ...part } });
  const said = pictureSaid(picture);
  const rows = pictureRows(picture);
  const working = { source, picture, set };

  const turned = turnedSize(source.facts ?? { width: 1, height: 1 }, picture);

  const fitToContent = async (isCentred: boolean) => {
    setClear(undefined);
    const whole = { ...spec, picture: { ...picture, crop: null } };
    const answer = await fit({ source: source.id, spec: whole });
    if (!answer.data) return;
    const { box } = answer.data;
    if (box) set({ crop: isCentred ? centredBox(box, turned) : box });
    else
      setClear({
        code: 'all-clear',
        fact: `All of ${source.name} is clear: there is no content to fit to.`,
        wayOut: 'Check its declared alpha on Inspect.',
      });
  };

  return (
    <Box
      component="section"
      id="picture"
      aria-label="Picture operations"
      sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider', borderRadius: '6px', flexShrink: 0 }}
    >
      <ButtonBase
        aria-expanded={shown}
        onClick={() => onShow(!shown)}
        sx={{
          width: '100%',
          p: '10px 14px',
          gap: 1,
          justifyContent: 'flex-start',
          textAlign: 'left',
          font: 'inherit',
          borderRadius: '6px',
        }}
      >
        <Box component="span" sx={{ fontSize: 12.5, fontWeight: 600, color: 'text.secondary', flexShrink: 0 }}>
          Picture
        </Box>
        <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap', fontSize: 14 }}>
          {said.join(', ') || 'as it is'}
        </Box>
        <ExpandMoreIcon
          fontSize="small"
          sx={{ ml: 'auto', color: 'text.secondary', transform: shown ? 'rotate(180deg)' : undefined }}
        />
      </ButtonBase>
      {shown && (
        <Box component="ol" sx={{ m: 0, p: '0 0 6px', listStyle: 'none' }}>
          {steps.map(([step, label]) => {
            const Fields = step === 'crop' ? undefined : fields[step];
            const told = rows.filter(({ keys }) => keys.some((key) => stepOf[key] === step));
            const rests = told.every(({ isAtRest }) => isAtRest);
            return (
              <Box component="li" key={step}>
                <ButtonBase
                  aria-expanded={open === step}
                  onClick={() => onOpen(open === step ? null : step)}
                  sx={{
                    width: '100%',
                    display: 'grid',
                    gridTemplateColumns: '96px minmax(0, 1fr)',
                    textAlign: 'left',
                    p: '4px 14px',
                    font: 'inherit',
                    fontSize: 13.5,
                    bgcolor: open === step ? 'action.hover' : undefined,
                    '&:focus-visible': { outlineOffset: -2 },
                  }}
                >
                  <Box component="span" sx={{ color: 'text.secondary' }}>
                    {label}
                  </Box>
                  <Box
                    component="span"
                    sx={{
                      color: rests ? 'text.secondary' : 'text.primary',
                      fontWeight: rests ? undefined : 600,
                      overflowWrap: 'anywhere',
                    }}
                  >
                    {step === 'rounding' && rests ? 'to nearest, clipped' : told.map(({ words }) => words).join('; ')}
                  </Box>
                </ButtonBase>
                {open === step && (
                  <Box sx={{ display: 'grid', gap: 1.25, p: '10px 14px 12px', bgcolor: 'action.hover' }}>
                    {Fields ? (
                      <Fields {...working} />
                    ) : (
                      <CropFields
                        {...working}
                        turned={turned}
                        onFit={(isCentred) => void fitToContent(isCentred)}
                        fitting={isFetching}
                        fitProblem={(error as Problem | undefined) ?? clear}
                      />
                    )}
                  </Box>
                )}
              </Box>
            );
          })}
        </Box>
      )}
    </Box>
  );
}
