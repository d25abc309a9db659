/** Reading the address of Reach, the same for the page and for its files. */
import { coursesSeen } from '@/server/courses/reads';
import type { Viewer } from '@/data/scope';
import { InvalidInput, NotFound } from '@/server/request/input';
import { dailyOpens } from '@/server/item-use/opens';
import { itemUseOf } from '@/server/item-use/item-use';
import type { Runtime } from '@/server/runtime';
import { courseOf } from '../course-params';

type Params = Record<string, string | undefined>;
/** The part that is shown. */
type Asked = NonNullable<ReturnType<typeof courseOf>>;

/** The items as the address has them; a period that makes no sense is told of, and all of the time shown. */
export async function readItemUse(runtime: Runtime, viewer: Viewer, asked: Asked, { period, from, to, sort }: Params) {
  try {
    return { ...(await itemUseOf(runtime, viewer, { ...asked, period, from, to, sort })), fault: null };
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return { ...(await itemUseOf(runtime, viewer, { ...asked })), fault: error.message };
  }
}

/** Opens per day as the address has them; what makes no sense of it is left out. */
export async function readOpens(runtime: Runtime, viewer: Viewer, asked: Asked, { by, weeks }: Params) {
  try {
    return await dailyOpens(runtime, viewer, { ...asked, by, weeks });
  } catch (error) {
    if (!(error instanceof InvalidInput)) throw error;
    return dailyOpens(runtime, viewer, { ...asked });
  }
}

/** The part that an address shows, for a file of it. @throws NotFound for a viewer without courses */
export async function partOf(runtime: Runtime, viewer: Viewer, params: Params): Promise<Asked> {
  const asked = courseOf(params, await coursesSeen(runtime, viewer));
  if (!asked) throw new NotFound('No course');
  return asked;
}
