/** A waveform: for each part of a sound and each channel its lowest and highest sample and its effective level, as 16-bit codes. */
export interface Wave {
  channels: number;
  /** Samples in a part; the last may have fewer. */
  each: number;
  /** Parts x channels x 3: lowest, highest (-32,767 to 32,767 for full scale, rounded outwards), root of the mean square. */
  data: Int16Array;
}

const perChannel = 3;
const full = 32_767;
const firstEach = 256;
/** Parts that are kept at the most; above, two become one. */
const mostParts = 2 ** 20;

const low = (value: number) => Math.max(-full, Math.floor(value * full));
const high = (value: number) => Math.min(full, Math.ceil(value * full));
const level = (mean: number) => Math.min(full, Math.round(Math.sqrt(mean) * full));

/** How many parts a waveform has. */
export const partsOfWave = ({ data, channels }: Wave): number => data.length / (channels * perChannel);

/** Makes a waveform of a sound while it passes. */
export class WaveMaker {
  private each: number;
  private data: Int16Array<ArrayBuffer>;
  private parts = 0;
  private filled = 0;
  private readonly lowest: Float64Array;
  private readonly highest: Float64Array;
  private readonly squares: Float64Array;

  /** @param most parts that are kept at the most */
  constructor(
    private readonly channels: number,
    each = firstEach,
    private readonly most = mostParts,
  ) {
    this.each = each;
    this.data = new Int16Array(1024 * channels * perChannel);
    this.lowest = new Float64Array(channels).fill(Infinity);
    this.highest = new Float64Array(channels).fill(-Infinity);
    this.squares = new Float64Array(channels);
  }

  /** @param data interleaved, 1 for full scale */
  add(data: Float32Array | Float64Array): void {
    const { channels, lowest, highest, squares } = this;
    for (let at = 0; at < data.length; at += channels) {
      for (let channel = 0; channel < channels; channel += 1) {
        const value = data[at + channel]!;
        if (value < lowest[channel]!) lowest[channel] = value;
        if (value > highest[channel]!) highest[channel] = value;
        squares[channel]! += value * value;
      }
      this.filled += 1;
      if (this.filled === this.each) this.close();
    }
  }

  private close(): void {
    const { channels, lowest, highest, squares } = this;
    const from = this.parts * channels * perChannel;
    if (from === this.data.length) {
      const grown = new Int16Array(this.data.length * 2);
      grown.set(this.data);
      this.data = grown;
    }
    for (let channel = 0; channel < channels; channel += 1) {
      const to = from + channel * perChannel;
      this.data[to] = low(lowest[channel]!);
      this.data[to + 1] = high(highest[channel]!);
      this.data[to + 2] = level(squares[channel]! / this.filled);
    }
    lowest.fill(Infinity);
    highest.fill(-Infinity);
    squares.fill(0);
    this.parts += 1;
    this.filled = 0;
    if (this.parts < this.most) return;
    const halved = coarser(this.now(), this.each * 2);
    this.data.set(halved.data);
    this.parts = partsOfWave(halved);
    this.each *= 2;
  }

  private now(): Wave {
    const { channels, each } = this;
    return { channels, each, data: this.data.subarray(0, this.parts * channels * perChannel) };
  }

  /** The waveform once all has passed. */
  end(): Wave {
    if (this.filled > 0) this.close();
    const { channels, each, data } = this.now();
    return { channels, each, data: data.slice() };
  }
}

/** Some parts as one. */
function joined({ channels, data }: Wave, from: number, to: number, channel: number): [number, number, number] {
  let [lowest, highest, squares] = [full, -full, 0];
  for (let part = from; part < to; part += 1) {
    const at = (part * channels + channel) * perChannel;
    if (data[at]! < lowest) lowest = data[at]!;
    if (data[at + 1]! > highest) highest = data[at + 1]!;
    squares += data[at + 2]! ** 2;
  }
  return [lowest, highest, Math.round(Math.sqrt(squares / (to - from)))];
}

/** The same waveform in larger parts. @param each samples in a part, a multiple of those it has */
export function coarser(wave: Wave, each: number): Wave {
  const by = each / wave.each;
  const all = partsOfWave(wave);
  return columnsOfWave(wave, 0, Math.ceil(all / by), by);
}

function columnsOfWave(wave: Wave, first: number, count: number, by: number): Wave {
  const all = partsOfWave(wave);
  const { channels } = wave;
  const data = new Int16Array(count * channels * perChannel);
  for (let column = 0; column < count; column += 1) {
    const from = Math.floor(first + column * by);
    const to = Math.min(all, Math.max(from + 1, Math.floor(first + (column + 1) * by)));
    if (from >= to || from < 0) continue;
    for (let channel = 0; channel < channels; channel += 1)
      data.set(joined(wave, from, to, channel), (column * channels + channel) * perChannel);
  }
  return { channels, each: wave.each * by, data };
}

/** A stretch of a waveform in so many columns; what lies outside it is level. @param from,to in samples */
export function waveBetween(wave: Wave, from: number, to: number, columns: number): Wave {
  return columnsOfWave(wave, from / wave.each, columns, (to - from) / columns / wave.each);
}

/** The waveform of samples themselves, in so many columns. @param data interleaved */
export function waveOfSamples(data: Float32Array, channels: number, columns: number): Wave {
  const samples = data.length / channels;
  const wave = new Int16Array(columns * channels * perChannel);
  for (let column = 0; column < columns; column += 1) {
    const from = Math.floor((column * samples) / columns);
    const to = Math.min(samples, Math.max(from + 1, Math.floor(((column + 1) * samples) / columns)));
    if (from >= to) continue;
    const one = new WaveMaker(channels, to - from);
    one.add(data.subarray(from * channels, to * channels));
    wave.set(one.end().data, column * channels * perChannel);
  }
  return { channels, each: samples / columns, data: wave };
}

/** A waveform as bytes: channels and samples in a part as 32-bit and 64-bit floats, then its codes; little-endian. */
export function packWave({ channels, each, data }: Wave): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(16 + data.byteLength);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, channels, true);
  view.setFloat64(8, each, true);
  bytes.set(new Uint8Array(data.buffer, data.byteOffset, data.byteLength), 16);
  return bytes;
}

/** @throws RangeError where it is cut */
export function unpackWave(bytes: ArrayBuffer): Wave {
  const view = new DataView(bytes);
  return { channels: view.getUint32(0, true), each: view.getFloat64(8, true), data: new Int16Array(bytes.slice(16)) };
}
