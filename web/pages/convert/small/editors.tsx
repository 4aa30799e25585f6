import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { ReactNode } from 'react';
import {
  codecs,
  codecRecord,
  filterSchema,
  filterWords,
  isAnimationFormat,
  parseBytes,
  resizeSchema,
  videoCase,
  videoFields,
  type CodecId,
  type Control,
  type Field,
  type Format,
  type Spec,
  type VideoCase,
  type VideoFieldName,
} from '@shale/core';
import { OneOf, Typed } from '../../../sentence/fields.tsx';
import { RecordField } from '../../../pieces/RecordField.tsx';
import { Choice, Pair, Whole } from '../../../pieces/slimFields.tsx';
import { refusal } from '../videoEditors.tsx';

interface Editing {
  spec: Spec;
  change: (spec: Spec) => void;
  changeFormat: (format: Format) => void;
}

/** Some fields of a video, as its record asks for them. */
function Fields({ names, spec, change }: Editing & { names: readonly VideoFieldName[] }) {
  const { video, write } = spec;
  return (
    <Pair>
      {names.map((name) => (
        <RecordField
          key={name}
          field={videoFields[name] as Field<Field['schema'], VideoCase>}
          at={videoCase(write, video)}
          value={video[name]}
          onSay={(value) => change({ ...spec, video: { ...video, [name]: value, given: null } })}
        />
      ))}
    </Pair>
  );
}

/** What is mostly asked of a small moving picture, in pixels of its longer side. */
const usualSides = [512, 360, 256, 128, 112, 56, 28];

function SizeEditor({ spec, change }: Editing) {
  const { resize } = spec.picture;
  const side = resize?.to.by === 'limit' ? Math.max(resize.to.width, resize.to.height) : null;
  const say = (longest: number | null, filter = resize?.filter) => {
    const to = { by: 'limit', width: longest, height: longest };
    const next = longest === null ? null : resizeSchema.parse({ to, ...(filter ? { filter } : {}) });
    change({ ...spec, picture: { ...spec.picture, resize: next } });
  };
  return (
    <Box sx={{ display: 'grid', gap: 1.5, pt: 0.75 }}>
      <Pair>
        <Whole
          label="Longer side, pixels"
          value={side}
          placeholder="as it is"
          onSay={(longest) => (longest === null || (longest >= 1 && longest <= 16_384)) && say(longest)}
        />
        <Choice
          label="Filter"
          value={resize?.filter ?? 'lanczos'}
          options={filterSchema.options.map((one) => [
            one,
            one === 'nearest' ? 'nearest, for pixel art' : filterWords[one],
          ])}
          onSay={(filter) => side !== null && say(side, filter)}
        />
      </Pair>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.5 }} role="group" aria-label="Usual sizes">
        {usualSides.map((one) => (
          <Button key={one} size="small" onClick={() => say(one)} sx={{ minWidth: 0, px: 1 }} className="mono">
            {one}
          </Button>
        ))}
      </Box>
    </Box>
  );
}

const formats = (Object.keys(codecs) as CodecId[]).filter(isAnimationFormat);

/** What opens under a pressed part of the sentence of a small moving picture; undefined where that of Convert does. */
export function smallEditorFor(control: Control, editing: Editing): ReactNode | undefined {
  const { spec, change, changeFormat } = editing;
  const { video } = spec;
  switch (control) {
    case 'format':
      return (
        <OneOf
          label="Format"
          value={spec.write.format as CodecId}
          options={formats.map((value) => ({ value, words: codecRecord(value)!.words }))}
          onChoose={changeFormat}
        />
      );
    case 'size':
      return <SizeEditor {...editing} />;
    case 'limit':
      return (
        <Typed
          label="Bytes, at most"
          mono
          value={video.limit === null ? '' : video.limit.toLocaleString('en-GB')}
          help="For example 256 KB, 256 KiB or 1.5 MB; empty for no limit."
          refuse={(text) => (text.trim() === '' ? undefined : refusal(() => parseBytes(text)))}
          onSay={(text) =>
            change({ ...spec, video: { ...video, limit: text.trim() === '' ? null : parseBytes(text), given: null } })
          }
        />
      );
    case 'gives':
      return (
        <Fields
          {...editing}
          names={['giveSize', 'giveColours', 'giveDither', 'giveQuality', 'giveRate', 'giveLength']}
        />
      );
    case 'edge':
      return (
        <Box sx={{ display: 'grid', gap: 1.5, pt: 0.75 }}>
          <Fields {...editing} names={['alphaEdge', 'alphaFrom', 'edgeColour']} />
          <Button
            size="small"
            onClick={() =>
              change({
                ...spec,
                video: { ...video, edgeColour: video.edgeColour === 'outline' ? null : 'outline', given: null },
              })
            }
          >
            {video.edgeColour === 'outline' ? 'Blend onto nothing' : 'Blend onto the picture’s own outline'}
          </Button>
        </Box>
      );
    case 'plays':
      return <Fields {...editing} names={['plays']} />;
    default:
      return undefined;
  }
}
