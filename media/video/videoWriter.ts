import { Dictionary, FormatContext, type Packet, type Stream } from 'node-av';
import { AV_CODEC_FLAG_GLOBAL_HEADER, AVFMT_FLAG_BITEXACT } from 'node-av/constants';
import { containerOf, type Container, type Image } from '@shale/core';
import { writerOf } from './codecs/index.ts';
import { check } from './libav.ts';
import { PacketFile, packetsOf } from './packetFile.ts';
import { PictureEncoder, type PictureSettings } from './pictureEncoder.ts';
import { SoundTrack, type WantedSound } from './soundTrack.ts';

/** What a video is to be. */
export interface VideoSettings extends PictureSettings {
  sound?: WantedSound;
}

/** What packets go into, in order. */
interface PacketSink {
  /** Adds a packet whose times count pictures. */
  put(packet: Packet): Promise<void>;
  /** Adds the sound that is heard until so many pictures are over, where it has any. */
  soundUpTo(pictures: number): Promise<void>;
  finish(): Promise<void>;
  close(): Promise<void>;
}

/** A video file on its way: packets go in, in order, and sound beside them. */
class VideoFile implements PacketSink {
  private sound: SoundTrack | undefined;
  private soundStream: Stream | undefined;

  private constructor(
    private readonly settings: VideoSettings,
    private readonly encoder: PictureEncoder,
    private readonly output: FormatContext,
    private readonly stream: Stream,
  ) {}

  /** @param path a path that does not exist @param encoder what the packets come of */
  static async open(path: string, settings: VideoSettings, encoder: PictureEncoder): Promise<VideoFile> {
    const { format, video } = settings;
    const { context, codec } = encoder;
    const made = writerOf(format);
    const container = containerOf(format, video);
    const output = new FormatContext();
    output.allocOutputContext2(null, container === 'mkv' ? 'matroska' : container, path);
    // These would have random numbers and the hour in them: what is made twice of the same is the same.
    if (container !== 'mp4' && container !== 'mov') output.setFlags(AVFMT_FLAG_BITEXACT);
    try {
      const stream = output.newStream(codec);
      stream.codecpar.fromContext(context);
      if (made.tag) stream.codecpar.codecTag = made.tag;
      stream.timeBase = context.timeBase;
      stream.avgFrameRate = context.framerate;
      stream.sampleAspectRatio = context.sampleAspectRatio;
      const words = {
        ...(video.timecode === null ? {} : { timecode: video.timecode }),
        ...made.words?.(settings),
      };
      if (Object.keys(words).length > 0) stream.metadata = Dictionary.fromObject(words);
      const file = new VideoFile(settings, encoder, output, stream);
      await file.begin(container);
      return file;
    } catch (error) {
      await output.closeOutput();
      throw error;
    }
  }

  private async begin(container: Container): Promise<void> {
    const { settings, output } = this;
    if (settings.sound) {
      const sound = container === 'mxf' ? { ...settings.sound, sampleRate: 48_000 } : settings.sound;
      this.sound = await SoundTrack.open(sound, (context) => context.setFlags(AV_CODEC_FLAG_GLOBAL_HEADER));
      this.soundStream = output.newStream(null);
      this.soundStream.codecpar.fromContext(this.sound.context);
      this.soundStream.timeBase = this.sound.context.timeBase;
    }
    check(await output.openOutput(), 'opening the file');
    const options: Record<string, string> = {};
    if (container === 'mp4' || container === 'mov') {
      options.movflags = `${settings.video.fastStart ? '+faststart' : ''}+write_colr`;
      options.write_tmcd = settings.video.timecode === null ? '0' : '1';
      // Divided by the rate and by those of sound alike.
      options.video_track_timescale = String(settings.rate.num < 1000 ? settings.rate.num * 512 : settings.rate.num);
    }
    const { plays } = settings.video;
    if (container === 'apng') {
      options.plays = String(plays ?? 0);
      options.final_delay = `${settings.rate.den}/${settings.rate.num}`;
    }
    // It counts as GIF does: how often it plays, 0 for ever.
    if (container === 'webp') options.loop = String(plays ?? 0);
    check(await output.writeHeader(Dictionary.fromObject(options)), 'beginning the file');
  }

  async put(packet: Packet): Promise<void> {
    packet.streamIndex = this.stream.index;
    packet.rescaleTs(this.encoder.context.timeBase, this.stream.timeBase);
    check(await this.output.interleavedWriteFrame(packet), 'writing');
  }

  async soundUpTo(pictures: number): Promise<void> {
    const { sound, soundStream } = this;
    const { num, den } = this.settings.rate;
    while (sound && soundStream && sound.seconds < (pictures * den) / num) {
      const more = await sound.next(async (packet) => {
        packet.streamIndex = soundStream.index;
        packet.rescaleTs(sound.context.timeBase, soundStream.timeBase);
        check(await this.output.interleavedWriteFrame(packet), 'writing');
      });
      if (!more) return;
    }
  }

  /** Ends the file: sound to the last sample, its index. */
  async finish(): Promise<void> {
    await this.soundUpTo(Infinity);
    check(await this.output.writeTrailer(), 'ending the file');
  }

  async close(): Promise<void> {
    await this.sound?.close();
    await this.output.closeOutput();
  }
}

/** Writes pictures into a video file, or into a piece of one, in order. */
export class VideoWriter {
  readonly forgets = true;

  private constructor(
    private readonly encoder: PictureEncoder,
    private readonly into: PacketSink,
  ) {}

  /**
   * Opens encoder and file. @param path a path that does not exist
   * @throws ShaleError `encoder-refused` where the codec does not take the size or the settings
   */
  static open(path: string, settings: VideoSettings): Promise<VideoWriter> {
    return VideoWriter.of(settings, (encoder) => VideoFile.open(path, settings, encoder));
  }

  /**
   * Opens encoder and a piece: packets alone, one after another, that {@link joinPieces} puts into a file. @param path what is
   * there is written over @throws as {@link VideoWriter.open}
   */
  static piece(path: string, settings: PictureSettings): Promise<VideoWriter> {
    return VideoWriter.of(settings, () => PacketFile.create(path));
  }

  private static async of(
    settings: PictureSettings,
    open: (encoder: PictureEncoder) => Promise<PacketSink>,
  ): Promise<VideoWriter> {
    const encoder = await PictureEncoder.open(settings);
    try {
      return new VideoWriter(encoder, await open(encoder));
    } catch (error) {
      encoder.close();
      throw error;
    }
  }

  /** Bytes of pictures so far. */
  get bytes(): number {
    return this.encoder.bytes;
  }

  async add(image: Image): Promise<void> {
    await this.encoder.add(image, (packet) => this.into.put(packet));
    await this.into.soundUpTo(this.encoder.count);
  }

  /** Ends it: all packets, sound to the last sample, its index. */
  async finish(): Promise<void> {
    await this.encoder.finish((packet) => this.into.put(packet));
    await this.into.finish();
  }

  async close(): Promise<void> {
    this.encoder.close();
    await this.into.close();
  }
}

/**
 * Puts pieces into one video, with its sound, without encoding again: each begins with a picture that needs no other.
 * @param pieces their paths, and how many pictures each holds
 * @param onPiece told of each that is wholly in the file
 */
export async function joinPieces(
  path: string,
  settings: VideoSettings,
  pieces: readonly { path: string; count: number }[],
  onPiece: (path: string) => Promise<void> = async () => undefined,
): Promise<void> {
  // Never given a picture: its header is that of the pieces' encoders.
  const encoder = await PictureEncoder.open(settings);
  let file: VideoFile | undefined;
  try {
    file = await VideoFile.open(path, settings, encoder);
    let before = 0;
    for (const piece of pieces) {
      let written = 0;
      for await (const packet of packetsOf(piece.path, before)) {
        await file.put(packet);
        await file.soundUpTo(before + (written += 1));
      }
      before += piece.count;
      await onPiece(piece.path);
    }
    await file.finish();
  } finally {
    encoder.close();
    await file?.close();
  }
}
