import { DOCUMENT } from '@angular/common';
import { effect, inject, Injectable, signal, type WritableSignal } from '@angular/core';
import type { ColumnPlace } from './ledger-places';

export const THEMES = ['light', 'dark'] as const;
export type Theme = (typeof THEMES)[number];

/** How a list is shown. */
export const LIST_VIEWS = ['sheet', 'ledger', 'hits', 'map', 'calendar'] as const;
export type ListView = (typeof LIST_VIEWS)[number];

/** Beside a list: what is said in it, to narrow it by; or the tags, to put them on. */
export type Beside = 'facets' | 'tags';

interface Kept {
  readonly theme: Theme;
  readonly details: boolean;
  readonly tray: boolean;
  readonly thumb: number;
  readonly view: ListView;
  readonly lines: readonly string[];
  readonly by: string | null;
  readonly pinned: readonly string[];
  readonly folded: readonly string[];
  readonly keptOpen: readonly string[];
  readonly columns: readonly ColumnPlace[];
  readonly beside: Beside | null;
  readonly criteria: boolean;
  readonly lift: boolean;
  readonly facets: readonly string[];
  readonly foldedFacets: readonly string[];
  readonly autoAdvance: boolean;
  readonly meters: boolean;
  readonly passedOver: string | null;
}

const KEY = 'neat-larder.settings';
const DEFAULTS: Kept = {
  theme: 'light',
  details: true,
  tray: false,
  thumb: 200,
  view: 'sheet',
  lines: [],
  by: null,
  pinned: [],
  folded: ['shot', 'who', 'rights'],
  keptOpen: [],
  columns: [],
  beside: null,
  criteria: false,
  lift: false,
  facets: ['kind', 'verdict', 'tag', 'people', 'place', 'reel', 'shot', 'rate', 'duration', 'storage', 'state', 'bin'],
  foldedFacets: [],
  autoAdvance: true,
  meters: false,
  passedOver: null,
};

function read(): Kept {
  try {
    return { ...DEFAULTS, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Kept>) };
  } catch {
    // Storage may be forbidden, or hold something else.
    return DEFAULTS;
  }
}

/** How this person likes this window; kept in the browser, since it is about this screen and no other. */
@Injectable({ providedIn: 'root' })
export class Settings {
  private readonly kept = read();
  readonly theme: WritableSignal<Theme> = signal(this.kept.theme);
  readonly details = signal(this.kept.details);
  readonly tray = signal(this.kept.tray);
  /** Width of a thumbnail in the contact sheet, in pixels. */
  readonly thumb = signal(this.kept.thumb);
  readonly view: WritableSignal<ListView> = signal(this.kept.view);

  /** Fields that stand beneath the pictures of the contact sheet, a line each. */
  readonly lines: WritableSignal<readonly string[]> = signal(this.kept.lines);

  /** The field that lists are cut into groups by. */
  readonly by: WritableSignal<string | null> = signal(this.kept.by);

  /** Folders of storages that are kept at hand, as `storage:path`. */
  readonly pinned: WritableSignal<readonly string[]> = signal(this.kept.pinned);

  /** Groups of fields that stand at the top of the details, always open. */
  readonly keptOpen: WritableSignal<readonly string[]> = signal(this.kept.keptOpen);
  /** Groups of fields that are folded in the details. */
  readonly folded: WritableSignal<readonly string[]> = signal(this.kept.folded);

  /** How the ledger's columns were arranged; none while they are as at first. */
  readonly columns: WritableSignal<readonly ColumnPlace[]> = signal(this.kept.columns);

  /** In logging, a verdict goes on to the next clip. */
  readonly autoAdvance = signal(this.kept.autoAdvance);

  /** The levels of the channels are shown below the player. */
  readonly meters = signal(this.kept.meters);

  /** What is shown beside the list. */
  readonly beside: WritableSignal<Beside | null> = signal(this.kept.beside);

  /** The search is shown as rows above the list. */
  readonly criteria = signal(this.kept.criteria);

  /** A search hides nothing of a list: what it finds stands out in it. */
  readonly lift = signal(this.kept.lift);

  /** Fields that a list can be narrowed by beside it, in their order, and those of them that are folded. */
  readonly facets: WritableSignal<readonly string[]> = signal(this.kept.facets);
  readonly foldedFacets: WritableSignal<readonly string[]> = signal(this.kept.foldedFacets);

  /** Folders that are passed over when missing originals are looked for, parted by commas; null for the usual ones. */
  readonly passedOver: WritableSignal<string | null> = signal(this.kept.passedOver);

  constructor() {
    const root = inject(DOCUMENT).documentElement;
    effect(() => {
      root.setAttribute('data-bs-theme', this.theme());
      const now: Kept = {
        theme: this.theme(),
        details: this.details(),
        tray: this.tray(),
        thumb: this.thumb(),
        view: this.view(),
        lines: this.lines(),
        by: this.by(),
        pinned: this.pinned(),
        folded: this.folded(),
        keptOpen: this.keptOpen(),
        columns: this.columns(),
        beside: this.beside(),
        criteria: this.criteria(),
        lift: this.lift(),
        facets: this.facets(),
        foldedFacets: this.foldedFacets(),
        autoAdvance: this.autoAdvance(),
        meters: this.meters(),
        passedOver: this.passedOver(),
      };
      try {
        localStorage.setItem(KEY, JSON.stringify(now));
      } catch {
        // Then it holds for this visit only.
      }
    });
  }
}
