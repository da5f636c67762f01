import { saidText, spokenHits, type SpokenWord } from '@larder/core/dialogue';
import type { FieldRegistry } from '@larder/core/fields';
import type { Query } from '@larder/core/query';
import type { SpokenExcerpt } from '@larder/contract';
import { queueRecognition } from '../store/recognitions';
import { readTranscript } from '../store/timed-transcripts';
import { correctTranscript, transcriptOf, wholeOf } from '../store/transcripts';
import type { Services } from './handlers';
import { signedIn, type Handlers } from './router';

type DialogueRoutes = 'transcript' | 'correctTranscript' | 'readTranscript' | 'recognise';

/** What is said: transcripts, made, brought in and corrected. */
export function dialogueHandlers(
  { db }: Services,
  told: <T>(work: Promise<T>) => Promise<T>,
): Pick<Handlers, DialogueRoutes> {
  return {
    transcript: async ({ body, id }) => transcriptOf(db, await wholeOf(db, id), body.source),
    correctTranscript: async ({ body, person, id }) =>
      told(correctTranscript(db, signedIn(person).id, await wholeOf(db, id), body)),
    readTranscript: async ({ body, person, id }) =>
      told(readTranscript(db, signedIn(person).id, await wholeOf(db, id), body.text, body.name ?? '')),
    recognise: ({ body, person }) => told(queueRecognition(db, signedIn(person).id, body.assetIds)),
  };
}

/** Words shown before and after a hit. */
const AROUND = 8;
/** Of one asset no more are listed: a common word is said hundreds of times in an hour. */
const MOST_EXCERPTS = 50;

/** Where in what is said a search found something, with what stands around it. */
export function excerptsOf(
  tree: Query,
  words: readonly SpokenWord[],
  fields: FieldRegistry,
): { readonly said: SpokenExcerpt[]; readonly more: number } {
  const text = (from: number, to: number) => saidText(words.slice(Math.max(0, from), to));
  const hits = spokenHits(tree, words, fields);
  const said = hits.slice(0, MOST_EXCERPTS).map(({ from, to, startMs, endMs }) => {
    const certainties = words.slice(from, to).flatMap(({ certainty }) => certainty ?? []);
    return {
      ...{ startMs, endMs, before: text(from - AROUND, from), hit: text(from, to), after: text(to, to + AROUND) },
      certainty: certainties.length > 0 ? Math.min(...certainties) : null,
    };
  });
  return { said, more: hits.length - said.length };
}
