import {
  HttpBackend,
  HttpErrorResponse,
  HttpResponse,
  provideHttpClient,
  type HttpRequest,
} from '@angular/common/http';
import { ChangeDetectionStrategy, Component, provideZonelessChangeDetection } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { provideRouter, Router, withComponentInputBinding } from '@angular/router';
import { RouterTestingHarness } from '@angular/router/testing';
import { NgbConfig } from '@ng-bootstrap/ng-bootstrap';
import { Store, type Action } from '@ngrx/store';
import { delay, of, throwError, type Observable } from 'rxjs';
import { BUILT_IN } from '@larder/core/fields';
import {
  ROUTES,
  type AnswerOf,
  type ApiError,
  type BodyOf,
  type Entity,
  type Person,
  type Role,
  type Route,
  type RouteName,
} from '@larder/contract';
import { stateProviders } from '../src/app/app.config';
import { routes } from '../src/app/app.routes';
import { liveActions } from '../src/app/shared/live.actions';
import { ToastStack } from '../src/app/shared/toasts';

/** An answer that refuses, by the contract's errors. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly error: ApiError,
  ) {}
}

type Answer<Name extends RouteName> = (body: BodyOf<Name>, id: number) => AnswerOf<Name> | Refusal;

const PATTERNS = (Object.entries(ROUTES) as [RouteName, Route][]).map(([name, route]) => ({
  name,
  route,
  pattern: new RegExp(`^${route.path.replace(':id', '(\\d+)')}$`),
}));

/**
 * The other end of the wire: answers by the names of the contract, holds every body to the contract's schema as the real server
 * does, and keeps what it was asked.
 */
export class FakeServer implements HttpBackend {
  readonly asked: { readonly name: RouteName; readonly body: unknown; readonly id: number }[] = [];
  private readonly answers = new Map<RouteName, Answer<RouteName>>();
  /** Answers to files that are sent as they are, by the beginning of their address. */
  readonly files = new Map<string, (address: string, file: unknown) => unknown>();
  /** Nobody answers at all. */
  down = false;
  /** What the library's fields are. */
  fields = BUILT_IN;

  on<Name extends RouteName>(name: Name, answer: Answer<Name>): this {
    this.answers.set(name, answer as unknown as Answer<RouteName>);
    return this;
  }

  /** The bodies with which one question was asked, in order. */
  bodies<Name extends RouteName>(name: Name): BodyOf<Name>[] {
    return this.asked.filter((each) => each.name === name).map((each) => each.body as BodyOf<Name>);
  }

  handle(request: HttpRequest<unknown>): Observable<HttpResponse<unknown>> {
    for (const [path, answer] of this.files)
      if (request.url.startsWith(path))
        return of(new HttpResponse({ status: 200, body: answer(request.url, request.body) })).pipe(delay(0));
    const found = PATTERNS.find(({ route, pattern }) => route.method === request.method && pattern.test(request.url));
    if (!found) throw new Error(`no such route: ${request.method} ${request.url}`);
    const { name, route, pattern } = found;
    const id = Number(pattern.exec(request.url)?.[1] ?? 0);
    if (route.body) route.body.validateSync(request.body ?? {}, { strict: true, context: { fields: this.fields } });
    this.asked.push({ name, body: request.body, id });
    const answer = this.answers.get(name);
    if (this.down || !answer) return throwError(() => new HttpErrorResponse({ status: 0, url: request.url }));
    const said = answer(request.body as never, id);
    return said instanceof Refusal
      ? throwError(() => new HttpErrorResponse({ status: said.status, error: { error: said.error }, url: request.url }))
      : of(new HttpResponse({ status: 200, body: said })).pipe(delay(0));
  }
}

export const person = (role: Role = 'manager'): Person => ({ id: 1, login: 'maren', name: 'Maren Oakley', role });

/** Waits until something holds. */
export async function until(what: string, look: () => unknown): Promise<void> {
  for (const end = Date.now() + 20_000; Date.now() < end; await new Promise((resolve) => setTimeout(resolve, 5))) {
    if (look()) return;
  }
  throw new Error(`never came: ${what}`);
}

@Component({ imports: [ToastStack], template: `<nl-toasts />`, changeDetection: ChangeDetectionStrategy.OnPush })
class Notices {}

/** The whole application in a document without layout, in front of a server that says what a test tells it to. */
export class Screen {
  private constructor(
    readonly server: FakeServer,
    readonly harness: RouterTestingHarness,
    readonly store: Store<object>,
  ) {}

  /** Signs a person in and opens an address. */
  static async open(address: string, server: FakeServer, role: Role = 'manager'): Promise<Screen> {
    server.on('session', () => ({ person: person(role) }));
    TestBed.configureTestingModule({
      providers: [
        provideZonelessChangeDetection(),
        provideHttpClient(),
        { provide: HttpBackend, useValue: server },
        provideRouter(routes, withComponentInputBinding()),
        ...stateProviders,
      ],
    });
    TestBed.inject(NgbConfig).animation = false;
    const notices = TestBed.createComponent(Notices);
    const harness = await RouterTestingHarness.create(address);
    // Each component made this way takes the place of the one before; both are wanted.
    document.body.append(notices.nativeElement as HTMLElement);
    const screen = new Screen(server, harness, TestBed.inject<Store<object>>(Store));
    await harness.fixture.whenStable();
    return screen;
  }

  dispatch(action: Action): void {
    this.store.dispatch(action);
  }

  state(): object {
    return this.store.selectSignal((state) => state)();
  }

  /** A colleague, or the library, changed something. */
  changed(entity: Entity, id: number, revision: number): void {
    this.dispatch(liveActions.changed({ revision, changed: [{ entity, id, by: 2 }] }));
  }

  get address(): string {
    return TestBed.inject(Router).url;
  }

  all<T extends Element = HTMLElement>(selector: string): T[] {
    return [...document.querySelectorAll<T>(selector)];
  }

  one<T extends Element = HTMLElement>(selector: string, words = ''): T {
    const found = this.all<T>(selector).find((element) => this.wordsOf(element).includes(words));
    if (!found) throw new Error(`not on the screen: ${selector} “${words}”`);
    return found;
  }

  private wordsOf(element: Element): string {
    return (element.textContent ?? '').replace(/\s+/g, ' ').trim();
  }

  text(selector = 'body'): string {
    return this.all(selector)
      .map((element) => this.wordsOf(element))
      .join(' ');
  }

  says(selector: string, words: string): Promise<void> {
    return until(`${selector} to say “${words}”, not “${this.text(selector)}”`, () =>
      this.text(selector).includes(words),
    );
  }

  async click(selector: string, words = '', more: MouseEventInit = {}): Promise<void> {
    await until(`${selector} “${words}”`, () => this.all(selector).some((each) => this.wordsOf(each).includes(words)));
    this.one(selector, words).dispatchEvent(new MouseEvent('click', { bubbles: true, cancelable: true, ...more }));
    await this.harness.fixture.whenStable();
  }

  /** Types into a field as a person does: into the focus, told by input events, and stays there. */
  async type(selector: string, text: string): Promise<HTMLInputElement> {
    await until(selector, () => this.all(selector).length > 0);
    const field = this.one<HTMLInputElement>(selector);
    field.focus();
    field.value = text;
    field.dispatchEvent(new Event('input', { bubbles: true }));
    await this.harness.fixture.whenStable();
    return field;
  }

  async choose(selector: string, value: string): Promise<void> {
    const field = this.one<HTMLSelectElement>(selector);
    field.value = value;
    field.dispatchEvent(new Event('change', { bubbles: true }));
    await this.harness.fixture.whenStable();
  }

  /** Chooses a file of text. */
  async chooseFile(selector: string, name: string, text: string): Promise<void> {
    const box = this.one<HTMLInputElement>(selector);
    // The DOM of the tests cannot read files.
    const file = Object.assign(new File([], name), { text: () => Promise.resolve(text) });
    Object.defineProperty(box, 'files', { value: [file], configurable: true });
    box.dispatchEvent(new Event('change'));
    await this.harness.fixture.whenStable();
  }

  /** Presses a key where the focus is. */
  async press(key: string, more: KeyboardEventInit = {}): Promise<void> {
    (document.activeElement ?? document.body).dispatchEvent(
      new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more }),
    );
    await this.harness.fixture.whenStable();
  }
}
