import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { ListedSource } from '@shale/contract';
import { useSoundQuery, useSourceQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { ProblemNote } from '../../pieces/Notes.tsx';
import { Choice, Whole } from '../../pieces/slimFields.tsx';
import { SourcePicker } from '../../pieces/SourcePicker.tsx';
import { ReplaceSoundCard } from '../../sound/ReplaceSoundCard.tsx';
import { WriteSoundCard } from '../../sound/WriteSoundCard.tsx';
import { SoundFactsCard } from '../../sound/SoundFactsCard.tsx';
import { useSourceSound } from '../../sound/useSourceSound.ts';
import { soundChosen, type ChosenSound } from '../../stage/state.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';

/** A sound as it lies before it is moved. */
const unmoved = (id: string) => ({ id, offset: 0, later: 0, stream: null });

interface FieldsProps {
  source: ListedSource;
  /** What was chosen: null for no sound, absent for the source's own; and the source that it is in. */
  chosen: ChosenSound | null | undefined;
  other: ListedSource | undefined;
  choose: (next: ChosenSound | null) => void;
}

/** Chooses what is heard, which of its streams, and by how much it begins later. */
function HeardFields({ source, chosen, other, choose }: FieldsProps) {
  const streams = (chosen ? other : source)?.facts?.clip?.sound?.streams ?? 1;
  return (
    <>
      <SourcePicker
        label="A sound, or a clip with sound"
        value={other ? { root: other.root, folder: other.folder, name: other.name } : null}
        sounds
        onSay={(_, { id }) => choose(unmoved(id))}
      />
      {streams > 1 && (
        <Choice
          label="Stream"
          value={String(chosen?.stream ?? '')}
          options={[
            ['', 'As a player takes it'],
            ...Array.from({ length: streams }, (_, at) => [String(at + 1), `Stream ${at + 1}`] as const),
          ]}
          onSay={(said) => choose({ ...(chosen ?? unmoved(source.id)), stream: said === '' ? null : Number(said) })}
        />
      )}
      {chosen && (
        <>
          <Whole
            label="Delay, frames"
            value={chosen.offset}
            onSay={(offset) => offset !== null && choose({ ...chosen, offset })}
          />
          <Whole
            label="and samples"
            value={chosen.later}
            onSay={(later) => later !== null && choose({ ...chosen, later })}
          />
        </>
      )}
      {(source.facts?.clip?.sound || chosen) && (
        <Button size="small" sx={{ justifySelf: 'start' }} onClick={() => choose(null)} disabled={chosen === null}>
          Play without sound
        </Button>
      )}
    </>
  );
}

/** Which sound is heard with a source, and what it holds. */
export function HeardCard({ source }: { source: ListedSource }) {
  const dispatch = useAppDispatch();
  const rate = source.declaration.rate.value;
  const chosen = useAppSelector(({ stage }) => stage.sounds[source.id]);
  const { data: other } = useSourceQuery(chosen?.id ?? '', { skip: !chosen });
  const { sound, comes, problem } = useSourceSound(source, rate);
  const own = source.facts?.clip?.sound !== undefined;
  const choose = (next: ChosenSound | null) => dispatch(soundChosen({ source: source.id, sound: next }));
  const words = !rate
    ? 'Declare a rate to lay a sound under these frames.'
    : own
      ? 'Its own sound is heard when it plays. Another one can take its place.'
      : 'Choose a sound to hear it with these frames.';
  return (
    <>
      <Card title="Sound" aside={comes ? 'reading' : undefined}>
        <Box sx={{ display: 'grid', gap: 1.25 }}>
          <Typography sx={{ fontSize: 13.5, color: 'text.secondary' }}>{words}</Typography>
          {rate && <HeardFields {...{ source, chosen, other, choose }} />}
          {problem && <ProblemNote problem={problem} />}
        </Box>
      </Card>
      {sound && <SoundFactsCard facts={sound.facts} />}
      {source.kind === 'clip' && other && sound && <ReplaceSoundCard clip={source} other={other} under={sound} />}
      {own && sound?.source === source.id && (
        <WriteSoundCard key={sound.stream} source={source} facts={sound.facts} stream={sound.stream} />
      )}
    </>
  );
}

/** What a sound file holds. */
export function SoundCard({ source }: { source: ListedSource }) {
  const { currentData: facts } = useSoundQuery({ id: source.id, modified: source.modified });
  if (!facts) return null;
  return (
    <>
      <SoundFactsCard facts={facts} />
      {facts.samples > 0 && <WriteSoundCard source={source} facts={facts} stream={null} />}
    </>
  );
}
