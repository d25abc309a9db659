import { contactPulse } from '@/server/contact/reads';
import { own } from '@/server/request/api';

/** Changes when anybody has been in touch with a learner; says nothing about whom. */
export const GET = own(async ({ runtime }) => Response.json({ pulse: await contactPulse(runtime) }), {
  byItself: true,
});
