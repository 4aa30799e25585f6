import { Dictionary, FormatContext } from 'node-av';
import { check } from './libav.ts';
import { SoundTrack, type WantedSound } from './soundTrack.ts';

/** Writes a part of a file's sound as WAV (PCM of 16 bits, of 24 where the source has more). @param path one that does not exist */
export async function writeWave(path: string, wanted: Omit<WantedSound, 'encoder' | 'bitrate'>): Promise<void> {
  const output = new FormatContext();
  const track = await SoundTrack.open({ ...wanted, encoder: 'pcm', bitrate: 0 });
  try {
    output.allocOutputContext2(null, 'wav', path);
    const stream = output.newStream(null);
    stream.codecpar.fromContext(track.context);
    stream.timeBase = track.context.timeBase;
    check(await output.openOutput(), 'opening the file');
    check(await output.writeHeader(Dictionary.fromObject({})), 'beginning the file');
    while (
      await track.next(async (packet) => {
        packet.streamIndex = 0;
        packet.rescaleTs(track.context.timeBase, stream.timeBase);
        check(await output.interleavedWriteFrame(packet), 'writing');
      })
    );
    check(await output.writeTrailer(), 'ending the file');
  } finally {
    await track.close();
    await output.closeOutput();
  }
}
