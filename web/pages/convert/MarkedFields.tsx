import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { chosenMarkers, markedSchema, type Marked, type MarkerColour, type Spec, usualTemplate } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { useMarkersQuery } from '../../api/api.ts';
import { colourOptions } from '../../pieces/markers.tsx';
import { Pair, Several, Text, Whole } from '../../pieces/slimFields.tsx';
import { plural } from '../../pieces/words.ts';

interface Props {
  source: ListedSource;
  spec: Spec;
  change: (spec: Spec) => void;
}

/** Stills at markers: which of them. */
export function MarkedFields({ source, spec, change }: Props) {
  const { data } = useMarkersQuery(source.id);
  const markers = data?.markers ?? [];
  const on = spec.frames === 'markers';
  const { marked } = spec;
  const set = (part: Partial<Marked>) => change({ ...spec, marked: { ...marked, ...part } });
  if (!on)
    return (
      <Button
        variant="outlined"
        disabled={markers.length === 0}
        onClick={() =>
          change({
            ...spec,
            frames: 'markers',
            marked: markedSchema.parse({}),
            names: { ...spec.names, template: '{stem}_{marker}.{ext}' },
          })
        }
      >
        {markers.length === 0 ? 'At markers: none set' : `A still at ${plural(markers.length, 'marker')}`}
      </Button>
    );
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }} role="group" aria-label="Which markers">
      <Pair>
        <Several<MarkerColour>
          label="Of the colours"
          value={marked.colours}
          options={colourOptions}
          onSay={(colours) => set({ colours: colours ?? [] })}
        />
        <Text
          label="With the words"
          value={marked.text}
          placeholder="any"
          onSay={(text) => set({ text: text.slice(0, 200) })}
        />
        <Whole
          label="Every nth marker"
          value={marked.every}
          onSay={(every) => set({ every: Math.min(10_000, Math.max(1, every ?? 1)) })}
        />
        <Button
          onClick={() =>
            change({
              ...spec,
              frames: 'all',
              names: {
                ...spec.names,
                template: spec.names.template.includes('{marker}') ? usualTemplate : spec.names.template,
              },
            })
          }
        >
          Clear markers
        </Button>
      </Pair>
      <Box sx={{ fontSize: 13, color: 'text.secondary' }}>
        {chosenMarkers(markers, marked).length} of {plural(markers.length, 'marker')}
      </Box>
    </Box>
  );
}
