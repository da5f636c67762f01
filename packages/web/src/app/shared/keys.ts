import { DOCUMENT } from '@angular/common';
import { ApplicationRef, DestroyRef, inject, Injectable } from '@angular/core';

/** Where a key works, for the sheet that prints the table. */
export const KEY_PLACES = ['everywhere', 'list', 'dialogue', 'player', 'logging', 'string-out'] as const;
export type KeyPlace = (typeof KEY_PLACES)[number];

/** Every key of the application. The help sheet prints this table; nothing else names a key. */
export const KEY_TABLE = [
  { command: 'search', key: '/', where: 'everywhere', label: 'Go to the search line' },
  { command: 'keys', key: '?', where: 'everywhere', label: 'Show all keys' },
  { command: 'undo', key: 'Ctrl+z', where: 'everywhere', label: 'Undo your last change' },
  { command: 'redo', key: 'Ctrl+Shift+z', where: 'everywhere', label: 'Do again what you undid' },
  { command: 'details', key: 'd', where: 'everywhere', label: 'Show or hide the details' },
  { command: 'escape', key: 'Escape', where: 'everywhere', label: 'Close, or clear the selection' },
  { command: 'list.all', key: 'Ctrl+a', where: 'list', label: 'Select all' },
  { command: 'list.left', key: 'ArrowLeft', where: 'list', label: 'Previous; in a string-out, one frame back' },
  { command: 'list.right', key: 'ArrowRight', where: 'list', label: 'Next; in a string-out, one frame on' },
  { command: 'list.up', key: 'ArrowUp', where: 'list', label: 'One row up' },
  { command: 'list.down', key: 'ArrowDown', where: 'list', label: 'One row down' },
  { command: 'list.extend-up', key: 'Shift+ArrowUp', where: 'list', label: 'Select up to the row above' },
  { command: 'list.extend-down', key: 'Shift+ArrowDown', where: 'list', label: 'Select up to the row below' },
  { command: 'ledger.fill', key: 'Ctrl+d', where: 'list', label: 'Ledger: say of the selected what the first says' },
  { command: 'list.choose', key: 'x', where: 'list', label: 'On a storage: choose or leave what is looked at' },
  { command: 'list.view', key: 'v', where: 'list', label: 'Contact sheet or ledger' },
  { command: 'list.within', key: 'Shift+s', where: 'list', label: 'Search within this list' },
  { command: 'list.lift', key: 'Shift+l', where: 'list', label: 'Only matches, or all with the matches lifted' },
  { command: 'list.match-before', key: ',', where: 'list', label: 'Back to the match before' },
  { command: 'list.match-next', key: '.', where: 'list', label: 'On to the next match' },
  { command: 'list.narrow', key: 'w', where: 'list', label: 'Narrow the list by what is said in it' },
  { command: 'criteria', key: 'Shift+w', where: 'list', label: 'Show the search as criteria, or hide them' },
  { command: 'list.flag', key: 'Shift+f', where: 'list', label: 'Flag for yourself, or take the flag off' },
  { command: 'list.earlier', key: 'Alt+ArrowUp', where: 'list', label: 'In a bin ordered by hand: one place earlier' },
  { command: 'list.later', key: 'Alt+ArrowDown', where: 'list', label: 'In a bin ordered by hand: one place later' },
  { command: 'list.pull', key: 'p', where: 'list', label: 'Put into the pull list' },
  { command: 'list.bin', key: 'b', where: 'list', label: 'Put into a bin' },
  { command: 'hit.next', key: ']', where: 'dialogue', label: 'On to the next hit, and play' },
  { command: 'hit.before', key: '[', where: 'dialogue', label: 'Back to the hit before, and play' },
  { command: 'hit.keep', key: 'Shift+k', where: 'dialogue', label: 'Keep the hit as a marker' },
  { command: 'hit.dismiss', key: 'Shift+d', where: 'dialogue', label: 'Dismiss the hit, or take it back' },
  { command: 'passage.longer', key: '}', where: 'dialogue', label: 'Longer passages' },
  { command: 'passage.shorter', key: '{', where: 'dialogue', label: 'Shorter passages' },
  { command: 'hit.speech', key: 'q', where: 'dialogue', label: 'Go to what was said' },
  { command: 'log.circled', key: 'c', where: 'logging', label: 'Verdict: circled' },
  { command: 'log.hold', key: 'h', where: 'logging', label: 'Verdict: hold' },
  { command: 'log.ng', key: 'n', where: 'logging', label: 'Verdict: NG' },
  { command: 'log.tag', key: 't', where: 'logging', label: 'Tags: then the letter of a set, and of a tag' },
  { command: 'log.edit', key: 'e', where: 'logging', label: 'Edit the title' },
  { command: 'log.copy', key: 'Shift+c', where: 'logging', label: 'Copy the fields of a clip' },
  { command: 'log.paste', key: 'Shift+v', where: 'logging', label: 'Paste copied fields' },
  {
    command: 'log.next-open',
    key: 'Shift+ArrowDown',
    where: 'logging',
    label: 'Logging: next clip that is not logged',
  },
  { command: 'log.poster', key: 'Shift+p', where: 'player', label: 'Poster frame: the one where the clip stands' },
  { command: 'play.toggle', key: 'Space', where: 'player', label: 'Play or pause' },
  { command: 'play.back', key: 'j', where: 'player', label: 'Shuttle backwards; again for faster' },
  { command: 'play.stop', key: 'k', where: 'player', label: 'Stop' },
  { command: 'play.forward', key: 'l', where: 'player', label: 'Shuttle forwards; again for faster' },
  { command: 'play.frame-back', key: 'Shift+ArrowLeft', where: 'player', label: 'One frame back' },
  { command: 'play.frame-on', key: 'Shift+ArrowRight', where: 'player', label: 'One frame on' },
  { command: 'play.in', key: 'i', where: 'player', label: 'Set the in' },
  { command: 'play.out', key: 'o', where: 'player', label: 'Set the out' },
  { command: 'play.clear', key: 'Shift+x', where: 'player', label: 'Forget in and out' },
  { command: 'play.go', key: 'g', where: 'player', label: 'Go to a timecode: 1000, 10:04:00:00, +10' },
  { command: 'play.loop', key: 'r', where: 'player', label: 'Play it, or what is marked, again and again' },
  { command: 'play.safe', key: 'a', where: 'player', label: 'Safe areas' },
  { command: 'play.full', key: 'f', where: 'player', label: 'Full screen' },
  { command: 'mark.subclip', key: 's', where: 'player', label: 'Make a subclip of what is marked' },
  { command: 'mark.add', key: 'm', where: 'player', label: 'Set a marker here, or over what is marked' },
  { command: 'mark.name', key: 'Shift+m', where: 'player', label: 'Set a marker and name it' },
  { command: 'cut.earlier', key: 'Alt+ArrowUp', where: 'string-out', label: 'Move the clip one earlier' },
  { command: 'cut.later', key: 'Alt+ArrowDown', where: 'string-out', label: 'Move the clip one later' },
  { command: 'cut.remove', key: 'Delete', where: 'string-out', label: 'Take the clip out of the string-out' },
] as const satisfies readonly { command: string; key: string; where: KeyPlace; label: string }[];

export type KeyCommand = (typeof KEY_TABLE)[number]['command'];

/** A key press in the table's notation: modifiers in a fixed order, letters small, the space bar by name. */
export function keyOf(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>): string {
  const name = event.key === ' ' ? 'Space' : event.key.length === 1 ? event.key.toLowerCase() : event.key;
  // With signs such as ? the shift is part of typing them.
  const shift = event.shiftKey && (event.key.length > 1 || /[a-z]/i.test(event.key));
  return [event.ctrlKey || event.metaKey ? 'Ctrl' : '', event.altKey ? 'Alt' : '', shift ? 'Shift' : '', name]
    .filter(Boolean)
    .join('+');
}

/** Keys as printed on a keyboard. */
export const printKey = (key: string): string =>
  key
    .replace('ArrowLeft', '←')
    .replace('ArrowRight', '→')
    .replace('ArrowUp', '↑')
    .replace('ArrowDown', '↓')
    .replace(/\b([a-z])$/, (letter) => letter.toUpperCase());

/** A handler that says false did not need the key after all; the one registered before it is asked next. */
export type KeyHandler = (event: KeyboardEvent) => boolean | void;

const COMMANDS = new Map<string, KeyCommand[]>();
for (const { key, command } of KEY_TABLE) COMMANDS.set(key, [...(COMMANDS.get(key) ?? []), command]);

/** Hands key presses to whoever asked for their command last; typing in a field is left alone. */
@Injectable({ providedIn: 'root' })
export class Keys {
  private readonly app = inject(ApplicationRef);
  private readonly handlers: { command: KeyCommand; handle: KeyHandler }[] = [];

  constructor() {
    const document = inject(DOCUMENT);
    const press = (event: KeyboardEvent) => this.press(event);
    document.addEventListener('keydown', press);
    inject(DestroyRef).onDestroy(() => document.removeEventListener('keydown', press));
  }

  /** Takes a command for as long as the component that calls this lives. Call it where `inject` may be called. */
  on(command: KeyCommand, handle: KeyHandler): void {
    const entry = { command, handle };
    this.handlers.push(entry);
    inject(DestroyRef).onDestroy(() => this.handlers.splice(this.handlers.indexOf(entry), 1));
  }

  private press(event: KeyboardEvent): void {
    if (event.defaultPrevented || isTyping(event)) return;
    const commands = COMMANDS.get(keyOf(event)) ?? [];
    if (commands.length === 0) return;
    // A browser may hand on a key before what was clicked or pressed a moment ago is drawn; it is meant for just that.
    this.app.tick();
    for (const { command, handle } of this.handlers.toReversed())
      if (commands.includes(command) && handle(event) !== false) {
        event.preventDefault();
        return;
      }
  }
}

/** Text is being typed, or a widget of its own keys has the focus. Escape gets out of any of them by itself. */
function isTyping(event: KeyboardEvent): boolean {
  const target = event.target instanceof Element ? event.target : null;
  if (!target) return false;
  if (target.closest('[role="dialog"], [role="menu"], .dropdown-menu')) return true;
  if (target.closest('input:not([type="range"]):not([type="checkbox"]), textarea, select, [contenteditable="true"]'))
    return true;
  // Space and Enter press the button that has the focus.
  return (
    target.closest('button, a[href], [role="option"] button') !== null && (event.key === ' ' || event.key === 'Enter')
  );
}
