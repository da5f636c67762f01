import { provideHttpClient } from '@angular/common/http';
import { type ApplicationConfig, provideZonelessChangeDetection } from '@angular/core';
import { provideRouter, withComponentInputBinding } from '@angular/router';
import { provideEffects } from '@ngrx/effects';
import { provideState, provideStore } from '@ngrx/store';
import { routes } from './app.routes';
import { bins, handBins, keepBin$ } from './bins/state';
import { front } from './front-page/state';
import { pullFeature, pullFromServer$, pullRows$, savePull$ } from './frame/pull.state';
import { pastSearches } from './frame/search-proposals';
import { presets, watches } from './ingest/state';
import { jobs } from './jobs/state';
import * as libraryEffects from './library/state/library.effects';
import { libraryFeature } from './library/state/library.reducer';
import { beginWalk$, keepPlace$, loggingPlaces, seeWalk$, selectCurrent$, walkFeature } from './logging/state';
import { loadMarkers$, markersFeature, writeMarkers$ } from './markers/state';
import { projects } from './projects/state';
import { followStringOut$, openStringOut$, saveStringOut$, stringOutFeature } from './projects/string-out.state';
import { shopFields } from './shared/fields';
import { flagList } from './shared/flags.state';
import { customWordList } from './dialogue/custom-words.state';
import { markingList } from './shared/marking-list.state';
import { sessionFeature } from './shared/session';
import { tagBook } from './shared/tags';
import * as shelfEffects from './storage/shelf.effects';
import { shelfFeature } from './storage/shelf.state';
import { storages } from './storage/state';

const slices = [
  bins,
  flagList,
  front,
  handBins,
  jobs,
  loggingPlaces,
  customWordList,
  markingList,
  pastSearches,
  presets,
  projects,
  shopFields,
  storages,
  tagBook,
  watches,
];

/** The state of every section, and what happens around it. */
export const stateProviders = [
  provideStore(),
  provideState(sessionFeature),
  provideState(libraryFeature),
  provideState(pullFeature),
  provideState(stringOutFeature),
  provideState(shelfFeature),
  provideState(markersFeature),
  provideState(walkFeature),
  ...slices.map((slice) => provideState(slice.feature.name, slice.feature.reducer as never)),
  provideEffects(
    libraryEffects,
    shelfEffects,
    { loadMarkers$, writeMarkers$, beginWalk$, selectCurrent$, seeWalk$, keepPlace$ },
    { savePull$, pullFromServer$, pullRows$, keepBin$, openStringOut$, followStringOut$, saveStringOut$ },
    ...slices.map(({ load$ }) => ({ load$ })),
  ),
];

export const appConfig: ApplicationConfig = {
  providers: [
    provideZonelessChangeDetection(),
    provideHttpClient(),
    provideRouter(routes, withComponentInputBinding()),
    ...stateProviders,
  ],
};
