import {
  Codec,
  CodecContext,
  Dictionary,
  FFmpegError,
  Frame,
  getFFmpegInfo,
  Log,
  Packet,
  type AVCodecID,
  type AVPixelFormat,
  AVERROR_EAGAIN,
} from 'node-av';
import {
  AV_CODEC_FLAG_BITEXACT,
  AV_LOG_QUIET,
  AV_PICTURE_TYPE_NONE,
  AV_PKT_FLAG_KEY,
  AVERROR_EOF,
} from 'node-av/constants';

/** A bundled program loads the library when it is first used (tools/compiled.cjs); from sources it is there already. */
const { onceLoaded = (_package, work) => work() } = globalThis as {
  onceLoaded?: (name: 'node-av', work: () => void) => void;
};
// The libraries write to stderr unless told otherwise; what went wrong comes back as an error code all the same.
onceLoaded('node-av', () => Log.setLevel(AV_LOG_QUIET));
process.env.SVT_LOG ??= '0';

/** The libraries that encode, by their versions and how they were built. */
export function libraryVersions(): string {
  const { version, configuration } = getFFmpegInfo();
  return `${version} ${configuration}`;
}

/** Throws with the library's own words where a call gave an error code. */
export function check(code: number, doing: string): void {
  if (code < 0) throw new Error(`${doing}: ${new FFmpegError(code).message}`);
}

/** Rows of one plane without the gaps that the library leaves between them. */
export function tightRows(plane: Buffer, stride: number, rowBytes: number, rows: number): Buffer {
  const tight = Buffer.allocUnsafe(rowBytes * rows);
  copyRows(plane, stride, rowBytes, rows, tight);
  return tight;
}

/** {@link tightRows} into bytes that are there. */
export function copyRows(plane: Buffer, stride: number, rowBytes: number, rows: number, to: Uint8Array): void {
  if (stride === rowBytes) plane.copy(to, 0, 0, rowBytes * rows);
  else for (let row = 0; row < rows; row += 1) plane.copy(to, row * rowBytes, row * stride, row * stride + rowBytes);
}

/**
 * Decodes one coded still with a codec that stops at every error: damage is never returned as a picture.
 * The caller frees the frame.
 * @throws Error with the library's words where the bytes are damaged or cut short
 */
export async function decodePacket(codecId: AVCodecID, bytes: Buffer): Promise<Frame> {
  const codec = Codec.findDecoder(codecId);
  if (!codec) throw new Error('no decoder for it');
  const context = new CodecContext();
  const packet = new Packet();
  const frame = new Frame();
  try {
    context.allocContext3(codec);
    context.threadCount = 1;
    check(
      await context.open2(codec, Dictionary.fromObject({ err_detect: 'crccheck+bitstream+buffer+explode' })),
      'opening the decoder',
    );
    packet.alloc();
    packet.data = bytes;
    packet.setFlags(AV_PKT_FLAG_KEY);
    frame.alloc();
    check(await context.sendPacket(packet), 'decoding');
    const code = await context.receiveFrame(frame);
    if (code === AVERROR_EAGAIN || code === AVERROR_EOF) {
      check(await context.sendPacket(null), 'decoding');
      check(await context.receiveFrame(frame), 'decoding');
    } else check(code, 'decoding');
    if (frame.decodeErrorFlags !== 0) throw new Error('decoding: parts of the picture are damaged');
    return frame;
  } catch (error) {
    frame.free();
    throw error;
  } finally {
    packet.free();
    context.freeContext();
  }
}

/** Curve and primaries by their code points (ITU-T H.273, tables 2 and 3); 2 says nothing. */
export interface ColourCodes {
  transfer: number;
  primaries: number;
}

/** Encodes one picture, given as the planes' bytes one after another without gaps, with a still codec. */
export async function encodePacket(
  encoder: NonNullable<ReturnType<typeof Codec.findEncoder>>,
  picture: { width: number; height: number; format: AVPixelFormat; bytes: Buffer },
  options: Record<string, string | number> = {},
  colour?: ColourCodes,
): Promise<Buffer> {
  const context = new CodecContext();
  const packet = new Packet();
  const frame = new Frame();
  try {
    context.allocContext3(encoder);
    context.width = picture.width;
    context.height = picture.height;
    context.pixelFormat = picture.format;
    context.timeBase = { num: 1, den: 25 } as CodecContext['timeBase'];
    context.threadCount = 1;
    context.setFlags(AV_CODEC_FLAG_BITEXACT);
    if (colour) {
      context.colorTrc = colour.transfer as CodecContext['colorTrc'];
      context.colorPrimaries = colour.primaries as CodecContext['colorPrimaries'];
    }
    check(await context.open2(encoder, Dictionary.fromObject(options)), 'opening the encoder');
    fillFrame(frame, picture);
    if (colour) {
      frame.colorTrc = colour.transfer as Frame['colorTrc'];
      frame.colorPrimaries = colour.primaries as Frame['colorPrimaries'];
    }
    check(await context.sendFrame(frame), 'encoding');
    check(await context.sendFrame(null), 'encoding');
    packet.alloc();
    check(await context.receivePacket(packet), 'encoding');
    return Buffer.from(packet.data!);
  } finally {
    frame.free();
    packet.free();
    context.freeContext();
  }
}

/**
 * Makes a frame of tight bytes, in memory of its own. The library's `fromBuffer` only points into the bytes, which may be
 * collected while a codec still reads them: what is encoded then is whatever came into their place.
 */
export function fillFrame(
  frame: Frame,
  picture: { width: number; height: number; format: AVPixelFormat; bytes: Buffer },
): void {
  const pointing = new Frame();
  try {
    shape(pointing, picture);
    check(pointing.fromBuffer(picture.bytes), 'filling a picture');
    shape(frame, picture);
    check(frame.copy(pointing), 'filling a picture');
    frame.pictType = AV_PICTURE_TYPE_NONE;
  } finally {
    pointing.free();
  }
}

/** A frame of a size and layout, with memory for it. */
function shape(frame: Frame, { width, height, format }: Omit<Parameters<typeof fillFrame>[1], 'bytes'>): void {
  frame.alloc();
  frame.width = width;
  frame.height = height;
  frame.format = format;
  check(frame.getBuffer(0), 'taking memory for a picture');
}
