import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router, RouterLink, RouterLinkActive, RouterOutlet } from '@angular/router';
import { NgbDropdown, NgbDropdownItem, NgbDropdownMenu, NgbDropdownToggle } from '@ng-bootstrap/ng-bootstrap';
import { Store } from '@ngrx/store';
import { filter, map } from 'rxjs';
import { Details } from '../details/details';
import { libraryActions } from '../library/state/library.actions';
import { OpenAnswers } from '../library/open-answers';
import { Api } from '../shared/api';
import { LiveEvents } from '../shared/events';
import { shopFields } from '../shared/fields';
import { Icon } from '../shared/icon';
import type { IconName } from '../shared/icons';
import { Keys } from '../shared/keys';
import { flagList } from '../shared/flags.state';
import { markingList } from '../shared/marking-list.state';
import { sessionActions, sessionFeature } from '../shared/session';
import { Settings } from '../shared/settings';
import { tagBook } from '../shared/tags';
import { TagKeys } from '../tags/tag-keys';
import { KeySheet } from './key-sheet';
import { SearchLine } from './search-line';
import { Tray } from './tray';

interface Section {
  readonly path: string;
  readonly label: string;
  readonly icon: IconName;
}

const SECTIONS: readonly Section[] = [
  { path: '/', label: 'Front page', icon: 'home' },
  { path: '/library', label: 'Library', icon: 'sheet' },
  { path: '/dialogue', label: 'Dialogue', icon: 'said' },
  { path: '/bins', label: 'Bins', icon: 'bins' },
  { path: '/projects', label: 'Projects', icon: 'cut' },
  { path: '/storage', label: 'Storage', icon: 'storage' },
  { path: '/upkeep', label: 'Upkeep', icon: 'upkeep' },
  { path: '/jobs', label: 'Jobs', icon: 'jobs' },
  { path: '/settings', label: 'Settings', icon: 'settings' },
];

/** Sections in which assets are selected, and which so have details at the right. */
const WITH_DETAILS = /^\/(library|dialogue|bins)/;

/** Logging shows the selection too, with fields of its own. */
const LOGGING = /^\/log(\?|$)/;

/** The frame around every section: rail, search line, section, details, pull list. */
@Component({
  selector: 'nl-frame',
  imports: [
    Details,
    Icon,
    NgbDropdown,
    NgbDropdownItem,
    NgbDropdownMenu,
    NgbDropdownToggle,
    RouterLink,
    RouterLinkActive,
    RouterOutlet,
    SearchLine,
    TagKeys,
    Tray,
  ],
  templateUrl: './frame.html',
  styleUrl: './frame.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Frame {
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly api = inject(Api);
  private readonly live = inject(LiveEvents);
  private readonly answers = inject(OpenAnswers);
  protected readonly sheet = inject(KeySheet);
  protected readonly settings = inject(Settings);
  protected readonly session = this.store.selectSignal(sessionFeature.selectSessionState);
  protected readonly sections = SECTIONS;
  private readonly url = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      map((event) => event.urlAfterRedirects),
    ),
    { initialValue: this.router.url },
  );
  protected readonly hasDetails = computed(() => WITH_DETAILS.test(this.url()));
  /** The library is come back to as it was left; within it, its link leads to all of it. */
  protected readonly backTo = computed(() => {
    const { query } = this.answers.current();
    return query && !this.url().startsWith('/library') ? { q: query } : null;
  });
  protected readonly isDialogue = computed(() => this.url().startsWith('/dialogue'));
  /** The selection outlasts its list: keys that act on it are for where it is seen. */
  protected readonly showsSelection = computed(() => this.hasDetails() || LOGGING.test(this.url()));

  constructor() {
    this.store.dispatch(shopFields.wanted());
    this.store.dispatch(tagBook.wanted());
    this.store.dispatch(markingList.wanted());
    this.store.dispatch(flagList.wanted());
    const keys = inject(Keys);
    keys.on('keys', () => this.sheet.open());
    keys.on('details', () => this.settings.details.update((open) => !open));
    keys.on('undo', () => this.undo());
    keys.on('redo', () => this.redo());
  }

  protected undo(): void {
    this.store.dispatch(libraryActions.undo({}));
  }

  protected redo(): void {
    this.store.dispatch(libraryActions.redo());
  }

  protected toggleTheme(): void {
    this.settings.theme.update((theme) => (theme === 'light' ? 'dark' : 'light'));
  }

  protected signOut(): void {
    this.api.call('signOut', null).subscribe({ complete: () => this.left(), error: () => this.left() });
  }

  private left(): void {
    this.live.stop();
    this.store.dispatch(sessionActions.signedOut());
    void this.router.navigate(['/sign-in']);
  }
}
