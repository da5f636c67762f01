import { inject } from '@angular/core';
import { Router, type CanActivateFn, type Routes } from '@angular/router';
import { Store } from '@ngrx/store';
import { catchError, map, of } from 'rxjs';
import { Api } from './shared/api';
import { LiveEvents } from './shared/events';
import { sessionActions, sessionFeature } from './shared/session';

/** Lets in whoever is signed in, and sends others to sign in and back to where they wanted to go. */
const signedIn: CanActivateFn = (_route, { url }) => {
  const [store, router, live] = [inject(Store), inject(Router), inject(LiveEvents)];
  const enter = (allowed: boolean) => {
    if (allowed) live.start();
    return allowed || router.createUrlTree(['/sign-in'], { queryParams: url === '/' ? {} : { back: url } });
  };
  const session = store.selectSignal(sessionFeature.selectSessionState)();
  if (session.checked) return enter(session.person !== null);
  return inject(Api)
    .call('session', null)
    .pipe(
      map(({ person }) => {
        store.dispatch(sessionActions.checked({ person }));
        return enter(person !== null);
      }),
      catchError(() => of(router.createUrlTree(['/sign-in']))),
    );
};

export const routes: Routes = [
  {
    path: 'sign-in',
    title: 'Sign in · Neat Larder',
    loadComponent: async () => (await import('./sign-in/sign-in')).SignIn,
  },
  {
    path: '',
    canActivate: [signedIn],
    loadComponent: async () => (await import('./frame/frame')).Frame,
    children: [
      {
        path: '',
        pathMatch: 'full',
        title: 'Neat Larder',
        loadComponent: async () => (await import('./front-page/front-page')).FrontPage,
      },
      {
        path: 'library',
        title: 'Library · Neat Larder',
        loadComponent: async () => (await import('./library/library')).Library,
      },
      {
        path: 'dialogue',
        title: 'Dialogue · Neat Larder',
        loadComponent: async () => (await import('./dialogue/dialogue')).Dialogue,
      },
      { path: 'bins', title: 'Bins · Neat Larder', loadComponent: async () => (await import('./bins/bins')).Bins },
      { path: 'bins/:id', title: 'Bins · Neat Larder', loadComponent: async () => (await import('./bins/bins')).Bins },
      {
        path: 'projects',
        title: 'Projects · Neat Larder',
        loadComponent: async () => (await import('./projects/projects')).Projects,
      },
      {
        path: 'string-outs/:id',
        title: 'String-out · Neat Larder',
        loadComponent: async () => (await import('./projects/string-out')).StringOutPage,
      },
      {
        path: 'storage',
        title: 'Storage · Neat Larder',
        loadComponent: async () => (await import('./storage/storage')).StoragePage,
      },
      {
        path: 'upload',
        title: 'Upload · Neat Larder',
        loadComponent: async () => (await import('./upload/upload')).UploadPage,
      },
      {
        path: 'storage/:id',
        title: 'Storage · Neat Larder',
        loadComponent: async () => (await import('./storage/shelf')).ShelfPage,
      },
      {
        path: 'upkeep',
        title: 'Upkeep · Neat Larder',
        loadComponent: async () => (await import('./upkeep/upkeep')).Upkeep,
      },
      {
        path: 'upkeep/restore',
        title: 'Restore list · Neat Larder',
        loadComponent: async () => (await import('./upkeep/restore-list')).RestoreListPage,
      },
      {
        path: 'upkeep/twins',
        title: 'Twins · Neat Larder',
        loadComponent: async () => (await import('./upkeep/twins')).TwinsPage,
      },
      { path: 'jobs', title: 'Jobs · Neat Larder', loadComponent: async () => (await import('./jobs/jobs')).Jobs },
      {
        path: 'settings',
        title: 'Settings · Neat Larder',
        loadComponent: async () => (await import('./settings/settings')).SettingsPage,
      },
      {
        path: 'how-to-search',
        title: 'How to search · Neat Larder',
        loadComponent: async () => (await import('./how-to-search/how-to-search')).HowToSearch,
      },
      {
        path: 'log',
        title: 'Logging · Neat Larder',
        loadComponent: async () => (await import('./logging/logging')).LoggingPage,
      },
      {
        path: 'table',
        title: 'Read a table · Neat Larder',
        loadComponent: async () => (await import('./table/table')).TablePage,
      },
      {
        path: 'words',
        title: 'Fields and tags · Neat Larder',
        loadComponent: async () => (await import('./words/words')).Words,
      },
      {
        path: '**',
        title: 'Not found · Neat Larder',
        loadComponent: async () => (await import('./frame/not-found')).NotFound,
      },
    ],
  },
];
