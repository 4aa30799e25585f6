import { library } from './library.ts';

/** Tasks of the libraries' side, one after another. */
export const each = <T>(tasks: object[]): Promise<T[]> => library<T[]>('clips.py', { tasks });

/** Exact rates as the command line takes them. */
export const rates = ['24', '24000/1001', '25', '30000/1001', '30', '50', '60000/1001', '12'] as const;

/** A clip of another library's making. */
export interface ClipKind {
  codec: string;
  layout: string;
  ending: string;
  options?: Record<string, string>;
  alpha?: boolean;
  sound?: string;
  /** The matrix that its coding says by itself, as ITU-T H.273 numbers it. */
  matrix?: number;
  /** The rate that it is written at, where its container does not take any. */
  rate?: (typeof rates)[number];
  /** How far its own coding is off on flat colour, in values. */
  near?: number;
}

/** Every kind of clip that is read. */
export const readKinds: readonly ClipKind[] = [
  ...['yuv420p', 'yuv422p', 'yuv444p', 'yuv420p10le', 'yuv422p10le', 'yuv444p10le'].map((layout) => ({
    ...{ codec: 'libx264', layout, ending: 'mp4' },
  })),
  { codec: 'libx264', layout: 'yuv420p', ending: 'mov', sound: 'pcm_s16le' },
  { codec: 'libx264', layout: 'yuv420p', ending: 'mkv', sound: 'flac' },
  { codec: 'libx264', layout: 'yuv420p', ending: 'ts' },
  ...['yuv420p', 'yuv422p10le', 'yuv444p12le'].map((layout) => ({ codec: 'libx265', layout, ending: 'mp4' })),
  { codec: 'mpeg4', layout: 'yuv420p', ending: 'avi' },
  { codec: 'mpeg2video', layout: 'yuv420p', ending: 'mpg' },
  { codec: 'mpeg2video', layout: 'yuv420p', ending: 'ts' },
  { codec: 'mpeg2video', layout: 'yuv422p', ending: 'mxf', rate: '25' },
  { codec: 'mjpeg', layout: 'yuvj420p', ending: 'avi', near: 0.02 },
  { codec: 'mjpeg', layout: 'yuvj444p', ending: 'mov', near: 0.02 },
  { codec: 'prores_ks', layout: 'yuv422p10le', ending: 'mov' },
  { codec: 'prores_ks', layout: 'yuva444p10le', ending: 'mov', options: { profile: '4' }, alpha: true },
  { codec: 'dnxhd', layout: 'yuv422p', ending: 'mxf', options: { profile: 'dnxhr_hq' }, matrix: 1 },
  { codec: 'dnxhd', layout: 'yuv422p', ending: 'mov', options: { profile: 'dnxhr_hq' }, matrix: 1 },
  { codec: 'dnxhd', layout: 'yuv422p10le', ending: 'mov', options: { profile: 'dnxhr_hqx' }, matrix: 1 },
  ...['yuv420p', 'yuv422p10le', 'gbrp10le', 'gbrp12le', 'gbrp16le', 'rgb48le', 'gray', 'gray16le', 'bgr0'].map(
    (layout) => ({
      ...{ codec: 'ffv1', layout, ending: 'mkv' },
    }),
  ),
  { codec: 'ffv1', layout: 'yuva444p', ending: 'mkv', alpha: true },
  { codec: 'ffv1', layout: 'yuv420p', ending: 'mkv', options: { level: '3', slicecrc: '1', slices: '4' } },
  { codec: 'huffyuv', layout: 'rgb24', ending: 'avi' },
  { codec: 'utvideo', layout: 'gbrp', ending: 'avi' },
  { codec: 'magicyuv', layout: 'gbrp', ending: 'avi' },
  { codec: 'libvpx', layout: 'yuv420p', ending: 'webm' },
  { codec: 'libvpx-vp9', layout: 'yuv420p', ending: 'webm' },
  { codec: 'libvpx-vp9', layout: 'yuv444p10le', ending: 'webm' },
  { codec: 'libsvtav1', layout: 'yuv420p10le', ending: 'mp4' },
  { codec: 'libaom-av1', layout: 'yuv420p', ending: 'mkv', options: { 'cpu-used': '8' } },
  { codec: 'png', layout: 'rgb24', ending: 'mov' },
  { codec: 'png', layout: 'rgba64be', ending: 'mov', alpha: true },
  { codec: 'qtrle', layout: 'argb', ending: 'mov', alpha: true },
  { codec: 'rawvideo', layout: 'yuv420p', ending: 'avi' },
  { codec: 'rawvideo', layout: 'rgb24', ending: 'mov' },
  { codec: 'v210', layout: 'yuv422p10le', ending: 'mov' },
  { codec: 'jpeg2000', layout: 'rgb24', ending: 'mov', near: 0.02 },
  { codec: 'wmv2', layout: 'yuv420p', ending: 'wmv' },
  { codec: 'libtheora', layout: 'yuv420p', ending: 'ogv' },
];

/** Makes clips of kinds at paths. @returns for each why it cannot be made here, where it cannot */
export async function makeClips(kinds: readonly ClipKind[], paths: readonly string[], pictures: number) {
  const made = await each<{ error?: string }>(
    kinds.map(({ codec, layout, options, alpha, matrix, rate = '24' }, at) => ({
      ...{ do: 'clip', path: paths[at], codec, layout, options, alpha, rate, count: pictures, matrix },
    })),
  );
  return made.map(({ error }) => error);
}
