import type { Runtime } from '../runtime';
import { NotLetIn } from '../staff/provider/said';
import { asProblem } from './api';
import { plainPage } from './plain-page';

/** What came of a sign-in by the provider; where nobody was let in, the page that says why. */
export async function notLetIn<T>(runtime: Runtime, work: () => Promise<T>): Promise<T | Response> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof NotLetIn)) return asProblem(runtime, error);
    return plainPage(
      { title: 'You were not let in', says: [error.message], link: { href: '/sign-in', label: 'Back to signing in' } },
      403,
    );
  }
}
