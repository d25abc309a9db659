/** `npm run build`: a production build. */
import { bundle, run } from './env.mjs';

bundle();
run('npx', ['next', 'build']);
