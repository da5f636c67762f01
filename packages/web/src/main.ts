import { bootstrapApplication } from '@angular/platform-browser';
import { appConfig } from './app/app.config';
import { App } from './app/app';

bootstrapApplication(App, appConfig).catch((error: unknown) => {
  // Nothing can be shown by the application itself at this point.
  document.body.textContent = `Neat Larder could not start: ${String(error)}. Reload the page.`;
});
