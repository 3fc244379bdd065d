/** `npm run build`: everything, when it is older than its sources. */
import { build, install } from './bootstrap.mjs';

install({ loud: true });
build({ loud: true, page: true });
