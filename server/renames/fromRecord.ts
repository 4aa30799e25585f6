import { renameStep, type RenameRecord } from '@shale/engine';
import type { RenameRow } from '../store/names.ts';

/** A row of the history from its journal alone. */
export function fromRecord(record: RenameRecord, row: RenameRow | undefined): RenameRow {
  const { head, files } = record;
  const ended = renameStep(record, 'done') ?? renameStep(record, 'back') ?? renameStep(record, 'stuck');
  const undone = renameStep(record, 'undone');
  const why = ended && 'why' in ended ? ended.why : '';
  return {
    id: head.id,
    state: undone ? 'undone' : (ended?.step ?? 'running'),
    mode: head.mode,
    sentence: head.sentence,
    files: files.length,
    root: head.roots[0],
    into: head.roots[1],
    example: files[0] ? [files[0][0], files[0][1]] : null,
    undoes: head.undoes,
    sources: row?.sources ?? [],
    problem:
      why === ''
        ? null
        : {
            code: ended!.step === 'stuck' ? 'rename-stuck' : 'rename-failed',
            fact: why,
            wayOut: ended!.step === 'back' ? 'Everything is as it was.' : 'Its journal has every old and new name.',
          },
    created: Date.parse(head.begun),
    finished: ended?.at ?? null,
  };
}
