import { heardFrom, laneOf } from '@shale/core';
import { SoundPlayer } from '../sound/player.ts';

/** Plays frames with a sound into an offline context and tells how many samples differ from what is to be heard. */
export async function holdSound(): Promise<{ compared: number; differ: number; rounds: number }> {
  const rate = 48_000;
  const samples = 5 * rate;
  const value = (at: number, channel: number) => Math.fround(Math.sin(at * 0.0173 + channel) * 0.6);
  const tape = {
    rate,
    samples,
    channels: 2,
    load: (from: number, count: number) =>
      Promise.resolve(Float32Array.from({ length: count * 2 }, (_, at) => value(from + (at >> 1), at & 1))),
  };
  // Frames at 23.976 that begin a third of a second before their sound and end behind it, from the 7th on, around and around.
  const lane = laneOf(
    { from: { num: -1, den: 3 }, later: 5 },
    { rate, samples, begins: 0 },
    { num: 24_000, den: 1001 },
  );
  const context = new OfflineAudioContext(2, 20 * rate, rate);
  const heard: { from: number; count: number }[] = [];
  let many = 0;
  for (const one of heardFrom(lane, 0, 140, 7)) {
    heard.push(one);
    if ((many += one.count) > 20 * rate) break;
  }
  const player = new SoundPlayer(context, tape, heard);
  player.begin(0);
  await player.all;
  const out = await context.startRendering();
  let [differ, at] = [0, 0];
  for (const { from, count } of heard)
    for (let sample = from; sample < from + count && at < out.length; sample += 1, at += 1)
      for (const channel of [0, 1]) {
        const wanted = sample >= 0 && sample < samples ? value(sample, channel) : 0;
        // A browser brings times to samples by doubles: what is left of that is a hundred thousandth of the last of 24 bits.
        if (Math.abs(out.getChannelData(channel)[at]! - wanted) > 1e-12) differ += 1;
      }
  return { compared: at, differ, rounds: heard.length };
}
