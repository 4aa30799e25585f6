import { open, type FileHandle } from 'node:fs/promises';
import type { Image } from '@shale/core';
import { PictureEncoder } from '../video/pictureEncoder.ts';
import type { VideoSettings } from '../video/videoWriter.ts';

/** Writes pictures as a codec's packets one behind another: a file of its own where the codestream is one. */
export class PacketWriter {
  private constructor(
    private readonly encoder: PictureEncoder,
    private readonly file: FileHandle,
  ) {}

  /** @param path a path that does not exist @throws ShaleError `encoder-refused` */
  static async open(path: string, settings: VideoSettings): Promise<PacketWriter> {
    const file = await open(path, 'wx');
    try {
      return new PacketWriter(await PictureEncoder.open(settings), file);
    } catch (error) {
      await file.close();
      throw error;
    }
  }

  get bytes(): number {
    return this.encoder.bytes;
  }

  async add(image: Image): Promise<void> {
    await this.encoder.add(image, this.put);
  }

  async finish(): Promise<void> {
    await this.encoder.finish(this.put);
  }

  async close(): Promise<void> {
    this.encoder.close();
    await this.file.close();
  }

  private readonly put = async ({ data }: { data: Buffer | null }): Promise<void> => {
    if (data) await this.file.appendFile(data);
  };
}
