import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { RouterLink } from '@angular/router';
import { exampleOf, SEARCH_FORMS } from '@larder/core/query';
import { Fields } from '../shared/fields';
import { NothingFits, quick, QuickBox } from '../shared/quick-box';

interface Piece {
  readonly text: string;
  readonly written: boolean;
}

/** What is between backticks is written in a search. */
const pieces = (text: string): Piece[] => text.split('`').map((each, at) => ({ text: each, written: at % 2 === 1 }));

/** The search language: its forms, and every field of this library with what can be asked of it. Each example can be tried. */
@Component({
  selector: 'nl-how-to-search',
  imports: [NothingFits, QuickBox, RouterLink],
  template: `
    <div class="page">
      <div class="page-head">
        <h1 class="plate">How to search</h1>
        <nl-quick-box label="Find on this page" [(text)]="quick.text" />
      </div>
      @if (forms().length > 0) {
        <div class="card-paper part">
          <h2>What to write</h2>
          <table class="table table-sm">
            <thead>
              <tr>
                <th>Write</th>
                <th>It finds</th>
              </tr>
            </thead>
            <tbody>
              @for (form of forms(); track form.finds) {
                <tr>
                  <td>
                    @for (text of form.write; track text) {
                      <a class="mono" routerLink="/library" [queryParams]="{ q: text }">{{ text }}</a>
                    }
                  </td>
                  <td>
                    @for (piece of form.pieces; track $index) {
                      <span [class.mono]="piece.written">{{ piece.text }}</span>
                    }
                  </td>
                </tr>
              }
            </tbody>
          </table>
        </div>
      }
      @if (forms().length === 0 && groups().length === 0) {
        <nl-nothing-fits [(text)]="quick.text" />
      }
      @for (group of groups(); track group.id) {
        <div class="card-paper part">
          <h2 dir="auto">{{ group.label }}</h2>
          <table class="table table-sm">
            <thead class="visually-hidden">
              <tr>
                <th>Field</th>
                <th>What it says</th>
                <th>For example</th>
              </tr>
            </thead>
            <tbody>
              @for (field of group.fields; track field.id) {
                <tr [attr.data-field]="field.id">
                  <td>
                    <span dir="auto">{{ field.label }}</span>
                    @if (field.plain) {
                      <span title="Plain words look in it, too" aria-label="Plain words look in it, too">•</span>
                    }
                    <div class="mono muted small">{{ field.names }}</div>
                  </td>
                  <td>
                    <span dir="auto">{{ field.help }}</span>
                    @if (field.choices) {
                      <div class="mono muted small" dir="auto">{{ field.choices }}</div>
                    }
                  </td>
                  <td>
                    <a class="mono" routerLink="/library" [queryParams]="{ q: field.example }">{{ field.example }}</a>
                  </td>
                </tr>
              }
            </tbody>
          </table>
        </div>
      } @empty {
        @if (forms().length === 0) {
          <p class="muted">Nothing on this page says that.</p>
        }
      }
    </div>
  `,
  styles: `
    .page-head nl-quick-box {
      width: 220px;
      margin-left: auto;
    }
    .part {
      padding: 14px 18px;
      margin-bottom: 14px;
      max-width: 980px;
    }
    h2 {
      font-size: 1rem;
    }
    table {
      --bs-table-bg: transparent;
      --bs-table-color: var(--nl-ink);
      table-layout: fixed;
      margin: 0;
    }
    td:first-child,
    th:first-child {
      width: 30%;
    }
    td:nth-child(3) {
      width: 26%;
    }
    td {
      overflow-wrap: anywhere;
    }
    td a {
      display: block;
      width: fit-content;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class HowToSearch {
  private readonly registry = inject(Fields).registry;
  protected readonly quick = quick();
  private readonly fits = this.quick.fits;
  protected readonly forms = computed(() =>
    SEARCH_FORMS.filter(({ write, finds }) => this.fits()(...write, finds)).map((form) => ({
      ...form,
      pieces: pieces(form.finds),
    })),
  );
  protected readonly groups = computed(() => {
    const registry = this.registry();
    return registry.groups
      .map((group) => ({
        ...group,
        fields: registry.all
          .filter((field) => field.group === group.id && !field.retired)
          .map((field) => {
            const name = registry.nameOf(field.id);
            const others = (field.aliases ?? []).filter((each) => registry.named(each)?.id === field.id);
            return {
              ...{ id: field.id, label: field.label, help: field.help, plain: field.plain === true },
              names: [...new Set([name, ...others])].join(', '),
              choices: field.choices?.join(', ') ?? '',
              example: exampleOf(field, name),
            };
          })
          .filter(({ label, names, help, choices }) => this.fits()(label, names, help, choices)),
      }))
      .filter(({ fields }) => fields.length > 0);
  });
}
