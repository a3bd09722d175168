/** The first and smallest script: the app and the page that is asked for are on their way at the same time. */
import { askForPage } from './routes';

void import('./app');
askForPage(window.location.pathname);
