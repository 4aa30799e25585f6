import { routes, type AnswerOf, type Sent } from '@shale/contract';
import { api } from './api.ts';
import { requestFor } from './ask.ts';

interface ToWrite {
  source: string;
  body: Sent<typeof routes.writeSound>['body'];
}

interface ToReplace {
  source: string;
  body: Sent<typeof routes.replaceSound>['body'];
}

/** What a page asks of sounds that are written. */
const sounds = api.injectEndpoints({
  endpoints: ({ query, mutation }) => ({
    soundMeasured: query<AnswerOf<typeof routes.soundMeasured>, string>({
      query: (source) => requestFor(routes.soundMeasured, { params: { source }, query: {} }),
      keepUnusedDataFor: 0,
    }),
    writeSound: mutation<AnswerOf<typeof routes.writeSound>, ToWrite>({
      query: ({ source, body }) => requestFor(routes.writeSound, { params: { source }, body }),
    }),
    replaceSound: mutation<AnswerOf<typeof routes.replaceSound>, ToReplace>({
      query: ({ source, body }) => requestFor(routes.replaceSound, { params: { source }, body }),
    }),
  }),
});

export const { useReplaceSoundMutation, useSoundMeasuredQuery, useWriteSoundMutation } = sounds;
