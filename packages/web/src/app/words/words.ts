import { ChangeDetectionStrategy, Component } from '@angular/core';
import { MarkingList } from './marking-list';
import { PlainFields } from './plain-fields';
import { ShopFields } from './shop-fields';
import { TagSets } from './tag-sets';

/** The words of this library: fields and tags, as its people agreed on them. */
@Component({
  selector: 'nl-words',
  imports: [MarkingList, PlainFields, ShopFields, TagSets],
  template: `
    <div class="page">
      <div class="page-head"><h1 class="plate">Fields and tags</h1></div>
      <div class="card-paper part"><nl-tag-sets /></div>
      <div class="card-paper part"><nl-marking-list /></div>
      <div class="card-paper part"><nl-shop-fields /></div>
      <div class="card-paper part"><nl-plain-fields /></div>
    </div>
  `,
  styles: `
    .part {
      padding: 14px 18px;
      margin-bottom: 14px;
      max-width: 900px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Words {}
