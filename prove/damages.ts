/** What is done to a file: cut short, a bit turned, a stretch overwritten, each where pictures are. */
export const damages: Record<string, (bytes: Buffer) => Buffer> = {
  'cut in the middle': (bytes) => bytes.subarray(0, Math.floor(bytes.length / 2)),
  'cut near its end': (bytes) => bytes.subarray(0, Math.floor(bytes.length * 0.93)),
  'a bit at a third': (bytes) => turned(bytes, 1 / 3, 0x10),
  'a bit in the middle': (bytes) => turned(bytes, 1 / 2, 0x01),
  'a bit at two thirds': (bytes) => turned(bytes, 2 / 3, 0x80),
  'nothing for 24 bytes': (bytes) => filled(bytes, 0.45, 24, 0),
  'ones for 24 bytes': (bytes) => filled(bytes, 0.6, 24, 0xff),
  'a stretch repeated': (bytes) => {
    const made = Buffer.from(bytes);
    const [from, to, many] = [0.4, 0.7, 0.05].map((part) => Math.floor(bytes.length * part)) as [
      number,
      number,
      number,
    ];
    bytes.copy(made, to, from, from + many);
    return made;
  },
};

function turned(bytes: Buffer, at: number, mask: number): Buffer {
  const made = Buffer.from(bytes);
  made[Math.floor(bytes.length * at)]! ^= mask;
  return made;
}

function filled(bytes: Buffer, at: number, many: number, value: number): Buffer {
  const made = Buffer.from(bytes);
  const from = Math.floor(bytes.length * at);
  return made.fill(value, from, Math.min(made.length, from + many));
}
