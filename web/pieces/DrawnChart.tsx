import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { BarChart, HeatmapChart, LineChart } from 'echarts/charts';
import { GraphicComponent, GridComponent, TooltipComponent, VisualMapComponent } from 'echarts/components';
import { init, use as enable, type ComposeOption, type EChartsType } from 'echarts/core';
import type { BarSeriesOption, HeatmapSeriesOption, LineSeriesOption } from 'echarts/charts';
import type { GridComponentOption, TooltipComponentOption, VisualMapComponentOption } from 'echarts/components';
import { CanvasRenderer } from 'echarts/renderers';
import { useEffect, useRef } from 'react';
import { mono } from '../theme/theme.ts';

enable([
  BarChart,
  LineChart,
  HeatmapChart,
  GraphicComponent,
  GridComponent,
  TooltipComponent,
  VisualMapComponent,
  CanvasRenderer,
]);

export type ChartOption = ComposeOption<
  | BarSeriesOption
  | LineSeriesOption
  | HeatmapSeriesOption
  | GridComponentOption
  | TooltipComponentOption
  | VisualMapComponentOption
>;

/** A place on a chart, in its own values. */
export type Point = readonly [x: number, y: number];

/** Points of a chart that can be dragged. */
export interface Handles {
  points: readonly Point[];
  /** Called once a point is let go of, with whole values. */
  onMove: (index: number, to: Point) => void;
  /** Called where the chart is pressed twice beside the points. */
  onAdd: (at: Point) => void;
  /** Changes the first series while a point is dragged. */
  lineOf: (points: readonly Point[]) => readonly Point[];
}

export interface ChartProps {
  option: ChartOption;
  height: number;
  /** What the chart says, for those who do not see it. */
  label: string;
  handles?: Handles;
}

const whole = ([x, y]: readonly number[]): Point => [Math.round(x!), Math.round(y!)];

/** A chart in the colours of the scheme. */
export default function DrawnChart({ option, height, label, handles }: ChartProps) {
  const { tokens } = useTheme();
  const box = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType | null>(null);
  const held = useRef<{ handles?: Handles; place: () => void }>({ place: () => undefined });
  useEffect(() => {
    const element = box.current!;
    const made = init(element);
    chart.current = made;
    const observer = new ResizeObserver(() => {
      made.resize();
      held.current.place();
    });
    observer.observe(element);
    made.getZr().on('dblclick', ({ offsetX, offsetY, target }) => {
      if (target && 'draggable' in target && target.draggable) return;
      const at = made.convertFromPixel('grid', [offsetX, offsetY]) as number[] | undefined;
      if (at) held.current.handles?.onAdd(whole(at));
    });
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
    held.current.handles = handles;
    held.current.place = () => {
      const made = chart.current;
      if (!made || !handles) return;
      const at = (x: number, y: number) => whole(made.convertFromPixel('grid', [x, y]));
      made.setOption({
        graphic: handles.points.map((point, index) => {
          const [x, y] = made.convertToPixel('grid', [...point]) as [number, number];
          return {
            type: 'circle',
            id: `handle ${index}`,
            x,
            y,
            shape: { r: 6 },
            style: { fill: tokens.sheet, stroke: tokens.act, lineWidth: 2 },
            cursor: 'grab',
            draggable: true,
            z: 100,
            ondrag(this: { x: number; y: number }) {
              const moved = handles.points.map((one, k) => (k === index ? at(this.x, this.y) : one));
              made.setOption({ series: [{ data: handles.lineOf(moved) as never }] });
            },
            ondragend(this: { x: number; y: number }) {
              handles.onMove(index, at(this.x, this.y));
            },
          };
        }),
      });
    };
    held.current.place();
  }, [option, tokens, handles]);
  return <Box ref={box} role="img" aria-label={label} sx={{ height, width: '100%' }} />;
}
