import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { codecRecord, evenRate, printRate, type Plan, type Problem, type Spec } from '@shale/core';
import type { ListedSource } from '@shale/contract';
import { ProblemNote } from '../../pieces/Notes.tsx';
import type { usePlanned } from './useConvert.ts';
import { useOnlyNew } from './useOnlyNew.ts';

interface Props extends Pick<ReturnType<typeof usePlanned>, 'target'> {
  source: ListedSource;
  spec: Spec;
  plan: Plan;
  change: (spec: Spec) => void;
  problems: readonly (Problem | undefined)[];
  /** Whether a run was refused: what lies in its folder is told by that. */
  isRefused: boolean;
}

/** Shows pictures evenly at a rate that players keep, where theirs is above it. */
function RateMend({ problem, spec, plan, change }: Pick<Props, 'spec' | 'plan' | 'change'> & { problem: Problem }) {
  const fastest = codecRecord(spec.write.format)?.animation?.fastest;
  if (problem.code !== 'rate-too-quick' || !plan.rate || fastest === undefined) return null;
  const rate = evenRate(plan.rate, fastest);
  return (
    <Button size="small" onClick={() => change({ ...spec, time: { ...spec.time, how: 'rate', rate } })}>
      Make it {printRate(rate)}
    </Button>
  );
}

/** What forbids a plan to run, each with its mend where there is one. */
export function PlanProblems({ source, spec, plan, change, target, problems, isRefused }: Props) {
  const onlyNew = useOnlyNew(source, spec);
  return (
    <>
      {problems.map(
        (problem) =>
          problem && (
            <ProblemNote
              key={problem.code}
              problem={problem}
              action={<RateMend {...{ problem, spec, plan, change }} />}
            />
          ),
      )}
      {target?.problem && !isRefused && (
        <ProblemNote
          problem={target.problem}
          action={
            <Box sx={{ display: 'flex', gap: 0.5, flexWrap: 'wrap' }}>
              {target.problem.code === 'output-exists' && (
                <Button size="small" onClick={() => void onlyNew()} sx={{ whiteSpace: 'nowrap' }}>
                  Only new or changed
                </Button>
              )}
              {target.problem.code === 'output-exists' && target.free === null && (
                <Button
                  size="small"
                  onClick={() => change({ ...spec, existing: 'replace' })}
                  sx={{ whiteSpace: 'nowrap' }}
                >
                  Replace it
                </Button>
              )}
              {target.free !== null && (
                <Button
                  size="small"
                  onClick={() => change({ ...spec, into: { ...spec.into, folder: target.free } })}
                  sx={{ whiteSpace: 'nowrap' }}
                >
                  Use {target.free}
                </Button>
              )}
            </Box>
          }
        />
      )}
    </>
  );
}
