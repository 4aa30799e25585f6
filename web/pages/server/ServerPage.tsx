import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useMemo } from 'react';
import type { Problem } from '@shale/core';
import type { ServerSample, ServerState } from '@shale/contract';
import { useServerQuery } from '../../api/api.ts';
import { Card } from '../../pieces/Card.tsx';
import { Chart } from '../../pieces/Chart.tsx';
import type { ChartOption } from '../../pieces/DrawnChart.tsx';
import { FactList } from '../../pieces/FactList.tsx';
import { Loading, ProblemNote } from '../../pieces/Notes.tsx';
import { State } from '../../pieces/State.tsx';
import { plural, printBytes } from '../../pieces/words.ts';
import type { Tokens } from '../../theme/tokens.ts';

/** How often it is asked, in milliseconds. */
const askEvery = 2000;

const poolWords: Record<string, string> = {
  looking: 'Looking',
  scanning: 'Scanning',
  trying: 'Trying',
  working: 'Jobs and checks',
};

function lineOf(samples: readonly ServerSample[], tokens: Tokens, value: (one: ServerSample) => number): ChartOption {
  return {
    grid: { left: 56, right: 12, top: 12, bottom: 22 },
    tooltip: { trigger: 'axis' },
    xAxis: { type: 'category', data: samples.map(({ at }) => new Date(at).toLocaleTimeString('en-GB')) },
    yAxis: { type: 'value', min: 0 },
    series: [
      {
        type: 'line',
        data: samples.map(value),
        showSymbol: false,
        lineStyle: { color: tokens.act },
        color: tokens.act,
      },
    ],
  };
}

function Pools({ pools }: Pick<ServerState, 'pools'>) {
  return (
    <FactList
      rows={pools.map(({ name, processes, waiting }) => {
        const busy = processes.flatMap(({ tasks }) => tasks);
        const memory = processes.reduce((sum, one) => sum + one.memory, 0);
        return [
          poolWords[name] ?? name,
          `${plural(processes.length, 'process', 'processes')}${memory > 0 ? `, ${printBytes(memory)}` : ''}; ${busy.length === 0 ? 'idle' : `at work: ${busy.join(', ')}`}${waiting > 0 ? `; ${waiting} waiting` : ''}`,
        ];
      })}
    />
  );
}

/** For whoever runs Shale: what it stands on, its processes, how quickly it goes, and what went wrong of late. */
export function ServerPage() {
  const { tokens } = useTheme();
  const { data, error } = useServerQuery(undefined, { pollingInterval: askEvery });
  const samples = data?.samples;
  const rates = useMemo(() => lineOf(samples ?? [], tokens, ({ rate }) => rate), [samples, tokens]);
  const memory = useMemo(
    () => lineOf(samples ?? [], tokens, (one) => Math.round(one.memory / 2 ** 20)),
    [samples, tokens],
  );
  if (error && !data)
    return (
      <Box sx={{ p: 3 }}>
        <ProblemNote problem={error as Problem} />
      </Box>
    );
  if (!data) return <Loading what="Reading the server’s status" />;
  const { jobs, parts, pools, log } = data;
  return (
    <Box sx={{ p: { xs: 1.5, md: '20px 24px' }, height: { xs: 'auto', md: '100%' }, overflowY: 'auto' }}>
      <Typography variant="h1">Server status</Typography>
      <Typography sx={{ color: 'text.secondary', mb: 2 }}>
        Shale {data.version}, since {new Date(data.since).toLocaleString('en-GB')}. {jobs.running} running,{' '}
        {jobs.waiting} waiting; since then {plural(jobs.written, 'file')} written, {jobs.failed} failed.
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(420px, 1fr))', gap: 1.5 }}>
        <Card title="What it depends on">
          {parts.map(({ name, ok, says }) => (
            <Box key={name} sx={{ display: 'flex', gap: 1, py: 0.25 }}>
              <State severity={ok ? 'note' : 'fault'}>{ok ? 'well' : 'not working'}</State>
              <Typography sx={{ fontSize: 14, overflowWrap: 'anywhere' }}>
                {name}: {says}
              </Typography>
            </Box>
          ))}
        </Card>
        <Card title="Processes">
          <Pools pools={pools} />
        </Card>
        <Card title="Files written a second">
          <Chart option={rates} height={150} label="Files written a second over the last ten minutes" />
        </Card>
        <Card title="Memory of the processes, MiB">
          <Chart option={memory} height={150} label="Memory of the worker processes over the last ten minutes" />
        </Card>
        <Card title="Recent problems" sx={{ gridColumn: '1 / -1' }}>
          {log.length === 0 && <Typography>Nothing.</Typography>}
          {log.map(({ at, level, text }, index) => (
            <Box key={index} sx={{ display: 'flex', gap: 1.5, fontSize: 13, py: 0.25 }}>
              <time className="mono" dateTime={at}>
                {new Date(at).toLocaleTimeString('en-GB')}
              </time>
              <State severity={level === 'error' ? 'fault' : 'doubt'}>{text}</State>
            </Box>
          ))}
        </Card>
      </Box>
    </Box>
  );
}
