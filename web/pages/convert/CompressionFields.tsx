import { exrCompressionSchema, tiffCompressionSchema, type Spec } from '@shale/core';
import { Decimal } from '../../pieces/numberFields.tsx';
import { Choice, Pair, Whole } from '../../pieces/slimFields.tsx';

type Write = Spec['write'];

/** The settings by which a format compresses: those that it has, none for one that does not. */
export function CompressionFields({ write, set }: { write: Write; set: (part: Partial<Write>) => void }) {
  const { format, exrCompression } = write;
  const quality = (
    <Whole
      label="Quality, 1 to 100"
      value={write.quality}
      onSay={(value) => value !== null && value >= 1 && value <= 100 && set({ quality: value })}
    />
  );
  const effort = (
    <Choice
      label="Effort"
      value={String(write.effort)}
      options={[1, 2, 3, 4, 5, 6, 7, 8, 9].map((level) => [
        String(level),
        { 1: '1, fastest', 9: '9, smallest' }[level] ?? String(level),
      ])}
      onSay={(level) => set({ effort: Number(level) })}
    />
  );
  if (format === 'png') return effort;
  if (format === 'jpeg') {
    return (
      <Pair>
        {quality}
        <Choice
          label="Colour"
          value={write.jpegChroma}
          options={[
            ['4:4:4', '4:4:4, whole'],
            ['4:2:0', '4:2:0, a quarter'],
          ]}
          onSay={(chroma) => set({ jpegChroma: chroma as '4:4:4' })}
        />
      </Pair>
    );
  }
  if (format === 'webp' || format === 'jxl') {
    return (
      <Pair>
        <Choice
          label="Compression"
          value={write.lossless ? 'lossless' : 'lossy'}
          options={[
            ['lossless', 'lossless'],
            ['lossy', 'by quality'],
          ]}
          onSay={(kind) => set({ lossless: kind === 'lossless' })}
        />
        {!write.lossless && quality}
      </Pair>
    );
  }
  if (format === 'exr') {
    return (
      <Pair>
        <Choice
          label="Compression"
          value={exrCompression}
          options={exrCompressionSchema.options.map((name) => [name, name])}
          onSay={(name) => set({ exrCompression: name as 'ZIP' })}
        />
        {/^ZIPS?$/.test(exrCompression) && effort}
        {/^DWA/.test(exrCompression) && (
          <Decimal
            label="Level, 0 best"
            value={write.dwaLevel}
            least={0}
            most={1000}
            onSay={(dwaLevel) => set({ dwaLevel })}
          />
        )}
      </Pair>
    );
  }
  if (format !== 'tiff') return null;
  return (
    <Pair>
      <Choice
        label="Compression"
        value={write.tiffCompression}
        options={tiffCompressionSchema.options.map((name) => [name, name])}
        onSay={(name) => set({ tiffCompression: name as 'none' })}
      />
      {write.tiffCompression === 'deflate' && effort}
    </Pair>
  );
}
