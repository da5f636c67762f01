import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { soundsOfWay, type CustomWord } from '@larder/core/dialogue';
import { FILE_PATHS, type CustomWordsAdded } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { counted } from '../shared/format';
import { Icon } from '../shared/icon';
import { QuickBox, quick } from '../shared/quick-box';
import { mayOffer, sessionFeature } from '../shared/session';
import { customWordList } from './custom-words.state';

/** Words that are listed at once. */
const MOST = 200;
/** Between the ways in which a word is said. */
const OR = '/';

/** Names of people, places and things that no recogniser knows, and how they are said. */
@Component({
  selector: 'nl-custom-words',
  imports: [Icon, QuickBox],
  templateUrl: './custom-words.html',
  styleUrl: './custom-words.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CustomWords {
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly state = this.store.selectSignal(customWordList.select);
  private readonly person = this.store.selectSignal(sessionFeature.selectPerson);

  protected readonly quick = quick();
  protected readonly mayLog = computed(() => mayOffer(this.person(), 'log'));
  protected readonly failure = computed(() => this.state().failure?.message ?? null);
  protected readonly all = computed(() => this.state().value?.words ?? null);
  private readonly fitting = computed(() => (this.all() ?? []).filter(({ text }) => this.quick.fits()(text)));
  protected readonly listed = computed(() => this.fitting().slice(0, MOST));
  protected readonly more = computed(() => this.fitting().length - this.listed().length);
  protected readonly busy = signal(false);
  /** What came of adding, and why something was not taken: of a word by its number, of new ones by 0. */
  protected readonly outcome = signal('');
  protected readonly issue = signal<{ readonly of: number; readonly words: string } | null>(null);
  protected readonly counted = counted;
  protected readonly sounds = SOUND_EXAMPLES;

  constructor() {
    this.store.dispatch(customWordList.wanted());
  }

  protected saysOf({ says }: CustomWord): string {
    return says.join(` ${OR} `);
  }

  protected add(box: HTMLTextAreaElement): void {
    const names = box.value;
    if (names.trim() === '') return;
    this.busy.set(true);
    this.issue.set(null);
    this.outcome.set('');
    this.api.call('newCustomWords', { names }).subscribe({
      next: (came) => {
        this.busy.set(false);
        this.outcome.set(toldOf(came));
        box.value = '';
      },
      error: ({ message }: Failure) => {
        this.busy.set(false);
        this.issue.set({ of: 0, words: message });
      },
    });
  }

  /** What cannot be said is not taken, and stays as it was written. */
  protected change({ id }: CustomWord, written: string): void {
    this.issue.set(null);
    this.api.call('changeCustomWord', { says: waysIn(written) }, id).subscribe({
      error: ({ message }: Failure) => this.issue.set({ of: id, words: message }),
    });
  }

  protected remove({ id }: CustomWord): void {
    this.issue.set(null);
    this.api.call('removeCustomWord', null, id).subscribe({
      error: ({ message }: Failure) => this.issue.set({ of: id, words: message }),
    });
  }

  /** Says the first way as it is written, whether it was taken yet or not. */
  protected hear({ id }: CustomWord, written: string, voice: HTMLAudioElement): void {
    const [way = ''] = waysIn(written);
    if (!soundsOfWay(way)) return this.issue.set({ of: id, words: 'These are no sounds that can be spoken.' });
    this.issue.set(null);
    voice.src = FILE_PATHS.spokenWay(way);
    voice.play().catch(() => this.issue.set({ of: id, words: 'That could not be spoken. Try again in a moment.' }));
  }
}

/** The sounds and the examples that the CMU Pronouncing Dictionary gives of them. */
const SOUND_EXAMPLES = (
  'AA odd, AE at, AH hut, AO ought, AW cow, AY hide, B be, CH cheese, D dee, DH thee, EH Ed, ER hurt, EY ate, F fee, G green, HH he, IH it, ' +
  'IY eat, JH gee, K key, L lee, M me, N knee, NG ping, OW oat, OY toy, P pee, R read, S sea, SH she, T tea, TH theta, UH hood, UW two, ' +
  'V vee, W we, Y yield, Z zee, ZH seizure'
)
  .split(', ')
  .map((example) => {
    const [sound = '', word = ''] = example.split(' ');
    return { sound, word };
  });

const waysIn = (written: string): string[] =>
  written
    .split(OR)
    .map((way) => way.trim())
    .filter(Boolean);

/** Names that are told of one by one. */
const TOLD = 12;

function toldOf({ added, known, left }: CustomWordsAdded): string {
  const some = (words: readonly string[]) =>
    words.slice(0, TOLD).join(', ') + (words.length > TOLD ? ` and ${words.length - TOLD} more` : '');
  return [
    `${counted(added, 'word')} added.`,
    known.length > 0 ? `The recogniser knows: ${some(known)}.` : '',
    left.length > 0 ? `Left out, as nobody could say how it is said: ${some(left)}.` : '',
  ]
    .filter(Boolean)
    .join(' ');
}
