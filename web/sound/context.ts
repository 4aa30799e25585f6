let live: { context: AudioContext; rate: number } | null = null;

/**
 * What sounds are heard through, at a sound's own rate, so that no sample is worked again before the machine's own output; null where the browser
 * has none. It is asked to begin, which a browser may refuse until something was pressed.
 */
export function soundContext(rate: number): AudioContext | null {
  if (typeof AudioContext === 'undefined') return null;
  if (live?.rate !== rate) {
    void live?.context.close();
    live = { context: contextAt(rate), rate };
  }
  void live.context.resume();
  return live.context;
}

function contextAt(rate: number): AudioContext {
  try {
    return new AudioContext({ sampleRate: rate, latencyHint: 'interactive' });
  } catch {
    // Rates that a browser does not take are brought to its own.
    return new AudioContext();
  }
}
