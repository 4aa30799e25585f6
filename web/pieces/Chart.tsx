import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { HeatmapChart, LineChart } from 'echarts/charts';
import { GridComponent, TooltipComponent, VisualMapComponent } from 'echarts/components';
import { init, use as enable, type ComposeOption, type EChartsType } from 'echarts/core';
import type { HeatmapSeriesOption, LineSeriesOption } from 'echarts/charts';
import type { GridComponentOption, TooltipComponentOption, VisualMapComponentOption } from 'echarts/components';
import { CanvasRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';
import { mono } from '../theme/theme.ts';

enable([LineChart, HeatmapChart, GridComponent, TooltipComponent, VisualMapComponent, CanvasRenderer]);

export type ChartOption = ComposeOption<
  LineSeriesOption | HeatmapSeriesOption | GridComponentOption | TooltipComponentOption | VisualMapComponentOption
>;

interface Props {
  option: ChartOption;
  height: number;
  /** What the chart says, for those who do not see it. */
  label: string;
}

/** A chart in the colours of the scheme. */
export function Chart({ option, height, label }: Props) {
  const { tokens } = useTheme();
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType | null>(null);
  useEffect(() => {
    const element = box.current!;
    const made = init(element);
    chart.current = made;
    const observer = new ResizeObserver(() => made.resize());
    observer.observe(element);
    return () => {
      observer.disconnect();
      made.dispose();
      chart.current = null;
    };
  }, []);
  useEffect(() => {
    chart.current?.setOption(
      {
        animation: false,
        textStyle: { fontFamily: mono, color: tokens.soft, fontSize: 11 },
        ...option,
      },
      { notMerge: true },
    );
  }, [option, tokens]);
  return <Box ref={box} role="img" aria-label={label} sx={{ height, width: '100%' }} />;
}
