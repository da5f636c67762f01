import {
  readsAsQuestion,
  readSpoken,
  saidText,
  spokenHits,
  wayText,
  type SpokenPlace,
  type SpokenWord,
} from '@larder/core/dialogue';
import type { FieldRegistry } from '@larder/core/fields';
import type { Query } from '@larder/core/query';
import {
  relatedSchema,
  spokenPassagesSchema,
  spokenTotalsSchema,
  spokenSchema,
  type SpokenExcerpt,
} from '@larder/contract';
import { lexicon } from '../media/lexicon';
import { assetsById } from '../store/assets';
import { dismissedHits, dismissHit, hitKey } from '../store/dismissed-hits';
import { queueRecognition } from '../store/recognitions';
import { readTranscript } from '../store/timed-transcripts';
import { correctTranscript, removeTranscript, transcriptOf, wholeOf } from '../store/transcripts';
import { narrowedTo, questionOf } from './asked-of-speech';
import { ofQuestion, termsIn } from './related-words';
import type { Services } from './handlers';
import { takenHits } from './hit-lists';
import { signedIn, type Handlers } from './router';

type DialogueRoutes =
  | 'spoken'
  | 'spokenPassages'
  | 'spokenTotals'
  | 'related'
  | 'themes'
  | 'themePassages'
  | 'dismissHit'
  | 'takeHits'
  | 'transcript'
  | 'correctTranscript'
  | 'removeTranscript'
  | 'readTranscript'
  | 'recognise';

/** What is said: transcripts, made, brought in and corrected. */
export function dialogueHandlers(
  services: Services,
  told: <T>(work: Promise<T>) => Promise<T>,
): Pick<Handlers, DialogueRoutes> {
  const { db, fields, search } = services;
  const assetsOf = (found: readonly { readonly id: number }[]) =>
    assetsById(db, [...new Set(found.map(({ id }) => id))]);
  return {
    spokenPassages: async ({ body, person }) => {
      const { atLeast, length, limit, notch } = { ...PASSAGE_DEFAULTS, ...body };
      const tree = await narrowedTo(body.query, person, fields);
      const asked = { question: questionOf(body), notch, tree, length, limit, atLeast };
      const { revision, value } = await search.ask({ ask: 'passages', ...asked });
      return { revision, ...value, assets: await assetsOf(value.passages) };
    },
    themes: async ({ body, person }) => {
      const tree = await narrowedTo(body.query, person, fields);
      const { revision, value } = await search.ask({ ask: 'themes', tree, atLeast: body.atLeast ?? 0 });
      return { revision, ...value, assets: await assetsOf(value.files) };
    },
    spokenTotals: async ({ body, person }) => {
      const { atLeast, notch } = { ...TOTALS_DEFAULTS, ...body };
      const asked = { question: questionOf(body), notch, tree: await narrowedTo(body.query, person, fields), atLeast };
      const { revision, value } = await search.ask({ ask: 'totals', ...asked });
      return { revision, ...value };
    },
    related: async ({ body, person }) => {
      const { atLeast, kept, said } = { ...RELATED_DEFAULTS, ...body };
      const [net, tree] = [await lexicon(), await narrowedTo(body.query, person, fields)];
      if (readsAsQuestion(said)) {
        const asked = { text: said, ...ofQuestion(net, said, new Set(kept)) };
        const { revision, value } = await search.ask({ ask: 'reduced', ...asked, tree, atLeast });
        return { revision, question: value, terms: [] };
      }
      const terms = await termsIn(db, net, readSpoken(said));
      const { revision, value } = await search.ask({ ask: 'related', terms, tree, atLeast });
      return { revision, question: null, terms: value };
    },
    themePassages: async ({ body, person }) => {
      const { assetIds: ids, atLeast, length, limit, terms } = { ...PASSAGE_DEFAULTS, ...body };
      const asked = { terms, tree: await narrowedTo(body.query, person, fields), ids };
      const { revision, value } = await search.ask({ ask: 'theme-passages', ...asked, length, limit, atLeast });
      return { revision, ...value, assets: await assetsOf(value.passages) };
    },
    spoken: async ({ body, person }) => {
      const { atLeast, limit, notch, offset, sort } = { ...DEFAULTS, ...body };
      const question = questionOf(body);
      const { items } = question;
      const tree = await narrowedTo(body.query, person, fields);
      const asked = { question, notch, tree, sort, offset, limit, atLeast };
      const { revision, value } = await search.ask({ ask: 'spoken', ...asked });
      const ids = value.files.map(({ id }) => id);
      const assets = new Map((await assetsById(db, ids)).map((asset) => [asset.id, asset]));
      const dismissed = await dismissedHits(db, signedIn(person).id, items, ids);
      return {
        ...{ revision, offset, notches: value.notches, searched: value.searched },
        items: items.flatMap(({ ways, without }, at) =>
          ways.map((way, n) => ({ text: wayText(way), without, sounds: value.sounds[at]?.[n] ?? '' })),
        ),
        files: value.files.flatMap(({ id, ...file }) => {
          const asset = assets.get(id);
          const hits = file.hits.map((hit) => ({ ...hit, dismissed: dismissed.has(hitKey(id, hit.startMs)) }));
          return asset ? { asset, ...file, hits } : [];
        }),
      };
    },
    dismissHit: async ({ body, person }) => {
      await dismissHit(db, signedIn(person).id, readSpoken(body.said), body);
      return null;
    },
    takeHits: ({ body, person }) => takenHits(services, body, signedIn(person)),
    transcript: async ({ body, id }) => transcriptOf(db, await wholeOf(db, id), body.source),
    correctTranscript: async ({ body, person, id }) =>
      told(correctTranscript(db, signedIn(person).id, await wholeOf(db, id), body)),
    removeTranscript: async ({ body, person, id }) =>
      told(removeTranscript(db, signedIn(person).id, await wholeOf(db, id), body)),
    readTranscript: async ({ body, person, id }) =>
      told(readTranscript(db, signedIn(person).id, await wholeOf(db, id), body.text, body.name ?? '')),
    recognise: ({ body, person }) => told(queueRecognition(db, signedIn(person).id, body.assetIds, body.apart)),
  };
}

const DEFAULTS = spokenSchema.getDefault();
const RELATED_DEFAULTS = relatedSchema.getDefault();
const TOTALS_DEFAULTS = spokenTotalsSchema.getDefault();
const PASSAGE_DEFAULTS = spokenPassagesSchema.getDefault();

/** Words shown before and after a hit. */
const AROUND = 8;
/** Of one asset no more are listed: a common word is said hundreds of times in an hour. */
const MOST_EXCERPTS = 50;

/** Where in what is said a search found something, by spelling or by sound, with what stands around it. */
export function excerptsOf(
  tree: Query,
  words: readonly SpokenWord[],
  heard: readonly SpokenPlace[],
  fields: FieldRegistry,
): { readonly said: SpokenExcerpt[]; readonly more: number } {
  const text = (from: number, to: number) => saidText(words.slice(Math.max(0, from), to));
  const hits = spokenHits(tree, words, fields);
  const spelled = hits.slice(0, MOST_EXCERPTS).map(({ from, to, startMs, endMs }) => {
    const certainties = words.slice(from, to).flatMap(({ certainty }) => certainty ?? []);
    return {
      ...{ startMs, endMs, before: text(from - AROUND, from), hit: text(from, to), after: text(to, to + AROUND) },
      certainty: certainties.length > 0 ? Math.min(...certainties) : null,
    };
  });
  const starts = new Set(spelled.map(({ startMs }) => startMs));
  const others = heard.filter(({ startMs }) => !starts.has(startMs));
  const sounding = others.slice(0, MOST_EXCERPTS).map(({ after, before, confidence, endMs, heard: hit, startMs }) => ({
    ...{ startMs, endMs, before, hit, after },
    certainty: confidence / 100,
  }));
  const said = [...spelled, ...sounding].sort((a, b) => a.startMs - b.startMs).slice(0, MOST_EXCERPTS);
  return { said, more: hits.length + others.length - said.length };
}
