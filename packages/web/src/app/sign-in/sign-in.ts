import { ChangeDetectionStrategy, Component, inject, input, resource, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { type ValidationError } from 'yup';
import { signInSchema } from '@larder/contract';
import { Api, type Failure } from '../shared/api';
import { sessionActions } from '../shared/session';

@Component({
  selector: 'nl-sign-in',
  imports: [FormsModule],
  template: `
    <main>
      <form class="card-paper" (ngSubmit)="signIn()">
        <img src="mark.svg" alt="" width="54" height="54" />
        <h1 class="plate">Neat Larder</h1>
        <p class="muted">Footage and sound, with a label on everything.</p>
        @if (demo.hasValue() && demo.value().people.length > 0) {
          <fieldset>
            <legend>Demo library: who would you like to be?</legend>
            @for (person of demo.value().people; track person.id) {
              <button
                type="button"
                class="btn btn-plain person"
                [disabled]="busy()"
                (click)="be(person.login)"
                [attr.data-login]="person.login"
              >
                <span>{{ person.name }}</span><span class="muted small">{{ person.role }}</span>
              </button>
            }
          </fieldset>
          <p class="or muted small">or sign in by hand</p>
        }
        <label class="form-label" for="login">Name</label>
        <input id="login" name="login" class="form-control" [(ngModel)]="login" autocomplete="username" />
        <label class="form-label" for="password">Password</label>
        <input
          id="password"
          name="password"
          type="password"
          class="form-control"
          [(ngModel)]="password"
          autocomplete="current-password"
        />
        @if (issue(); as words) {
          <p class="issue" role="alert">{{ words }}</p>
        }
        <button type="submit" class="btn btn-primary" [disabled]="busy()">Sign in</button>
      </form>
    </main>
  `,
  styles: `
    :host {
      display: block;
      height: 100vh;
      position: relative;
      overflow: auto;
      background: var(--nl-paper);
    }
    main {
      min-height: 100%;
      display: grid;
      place-items: center;
      padding: 20px;
    }
    form {
      width: 380px;
      padding: 26px 28px;
      display: grid;
      gap: 8px;
      justify-items: stretch;
    }
    img,
    .plate {
      justify-self: center;
    }
    p {
      margin: 0;
      text-align: center;
    }
    legend {
      font-size: 0.875rem;
      color: var(--nl-muted);
      margin-bottom: 6px;
    }
    .person {
      width: 100%;
      justify-content: space-between;
      margin-bottom: 5px;
    }
    .issue {
      color: var(--nl-bad);
      text-align: left;
    }
    .btn-primary {
      justify-content: center;
      margin-top: 6px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SignIn {
  /** Where to go afterwards. */
  readonly back = input<string>();
  private readonly api = inject(Api);
  private readonly store = inject(Store);
  private readonly router = inject(Router);
  protected readonly demo = resource({ loader: () => firstValueFrom(this.api.call('demoPeople', null)) });
  protected readonly busy = signal(false);
  protected readonly issue = signal<string | null>(null);
  protected login = '';
  protected password = '';

  protected be(login: string): void {
    this.send(login, this.demo.value()?.password ?? '');
  }

  protected signIn(): void {
    try {
      const { login, password } = signInSchema.validateSync(
        { login: this.login, password: this.password },
        { abortEarly: false },
      );
      this.send(login, password);
    } catch (error) {
      this.issue.set((error as ValidationError).errors.join(' '));
    }
  }

  private send(login: string, password: string): void {
    this.busy.set(true);
    this.api.call('signIn', { login, password }).subscribe({
      next: ({ person }) => {
        this.store.dispatch(sessionActions.signedIn({ person }));
        // Only a path of this application: an address from elsewhere must not lead away.
        const back = this.back();
        void this.router.navigateByUrl(back?.startsWith('/') && !back.startsWith('//') ? back : '/');
      },
      error: (failure: Failure) => {
        this.busy.set(false);
        this.issue.set(failure.message);
      },
    });
  }
}
