import { printSample, type ChannelScope, type Scopes } from '@shale/core';
import type { ChartOption } from '../../pieces/DrawnChart.tsx';
import type { Tokens } from '../../theme/tokens.ts';

/** Lines of the channels: light's own colours, dark enough on either ground; alpha is dashed. */
const lines: Record<ChannelScope['name'], string> = {
  red: '#c8452f',
  green: '#2f9a63',
  blue: '#3f74c9',
  grey: '#8b8f8c',
  alpha: '#8b8f8c',
};

/** How high a histogram's column is drawn: a few very full ones must not hide the rest. */
const heightOf = (count: number): number => Math.log10(1 + count);

const middleOf = ({ domain: [low, high] }: Scopes, part: number, parts: number): number =>
  low + ((part + 0.5) * (high - low)) / parts;

/** Samples by value, a line a channel, counted on a logarithmic scale. */
export function histogramOption(scopes: Scopes, tokens: Tokens): ChartOption {
  const parts = scopes.channels[0]?.histogram.length ?? 0;
  return {
    grid: { left: 6, right: 6, top: 6, bottom: 20 },
    xAxis: {
      type: 'value',
      min: scopes.domain[0],
      max: scopes.domain[1],
      splitLine: { show: false },
      axisLine: { lineStyle: { color: tokens.ruleStrong } },
      axisLabel: {
        color: tokens.soft,
        hideOverlap: true,
        showMaxLabel: scopes.integers,
        alignMinLabel: 'left',
        alignMaxLabel: 'right',
      },
    },
    yAxis: { type: 'value', show: false, min: 0 },
    tooltip: {
      trigger: 'axis',
      // Markup would need styles that the page's policy does not allow.
      renderMode: 'richText',
      formatter: (items: unknown) => {
        const rows = items as { seriesName: string; dataIndex: number; seriesIndex: number }[];
        const part = rows[0]?.dataIndex ?? 0;
        const value = middleOf(scopes, part, parts);
        const said = rows.map(({ seriesName, seriesIndex }) => {
          const count = scopes.channels[seriesIndex]!.histogram[part]!;
          return `${seriesName} ${count.toLocaleString('en-GB')}`;
        });
        return [printSample(scopes.integers ? Math.round(value) : value, !scopes.integers), ...said].join('\n');
      },
    },
    series: scopes.channels.map(({ name, histogram }) => ({
      type: 'line',
      name,
      showSymbol: false,
      step: 'middle',
      lineStyle: { color: lines[name], width: 1.2, type: name === 'alpha' ? 'dashed' : 'solid' },
      areaStyle: name === 'alpha' ? undefined : { color: lines[name], opacity: 0.12 },
      data: histogram.map((count, part) => [middleOf(scopes, part, parts), heightOf(count)]),
    })),
  };
}

/** Values of a channel by where they stand across the picture: the brighter, the more samples. */
export function waveformOption(scopes: Scopes, channel: ChannelScope, tokens: Tokens): ChartOption {
  const { columns, levels, domain } = scopes;
  const data: [number, number, number][] = [];
  channel.waveform.forEach((count, at) => {
    if (count > 0) data.push([Math.floor(at / levels), at % levels, heightOf(count)]);
  });
  const label = (level: number) => {
    const value = domain[0] + (level / (levels - 1)) * (domain[1] - domain[0]);
    return printSample(scopes.integers ? Math.round(value) : Number(value.toFixed(2)), !scopes.integers);
  };
  return {
    grid: { left: 44, right: 6, top: 6, bottom: 6 },
    xAxis: { type: 'category', show: false, data: Array.from({ length: columns }, (_, at) => at) },
    yAxis: {
      type: 'category',
      data: Array.from({ length: levels }, (_, level) => label(level)),
      axisLabel: { color: tokens.soft, interval: (at: number) => at % 21 === 0 },
      axisTick: { show: false },
      axisLine: { show: false },
    },
    visualMap: {
      show: false,
      min: 0,
      max: Math.max(0.5, ...data.map(([, , height]) => height)),
      inRange: { color: [tokens.rule, lines[channel.name]] },
    },
    series: [{ type: 'heatmap', data, silent: true }],
  };
}
