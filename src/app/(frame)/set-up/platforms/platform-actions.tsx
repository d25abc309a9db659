'use client';

import type { FormOf } from '@/server/request/input';
import type { PlatformInput } from '@/server/staff/platform/platforms';
import { FormButton } from '../../../_frame/form-button';
import { addPlatform, endPlatform } from '../actions';

export function AddPlatform() {
  return (
    <FormButton
      label="Add a platform…"
      title="A platform"
      says="Whoever runs the platform tells these when Lee Shore is set up there."
      fields={[
        { name: 'name', label: 'Name', description: 'As your people call it; ids of learners begin with it' },
        { name: 'issuer', label: 'Issuer', description: 'Who its tokens say they are from' },
        { name: 'client_id', label: 'Client id' },
        { name: 'deployments', label: 'Deployments', description: 'Their ids, with spaces between them' },
        { name: 'login_url', label: 'Sign-in address' },
        { name: 'keys_url', label: 'Keys address' },
        { name: 'token_url', label: 'Token address', description: 'For rosters; may be empty' },
        {
          name: 'vouches_for_email',
          label: 'Are its e-mail addresses known to be their people’s own?',
          type: 'choice',
          choices: [
            { value: 'no', label: 'No: somebody may type any' },
            { value: 'yes', label: 'Yes: whoever comes with one is taken for that person' },
          ],
        },
      ]}
      values={{ vouches_for_email: 'no' }}
      verb="Add"
      keep={(values: FormOf<PlatformInput>) => addPlatform(values)}
    />
  );
}

export function EndPlatform({ id, name }: { id: number; name: string }) {
  return (
    <FormButton
      label="End…"
      button={{ size: 'compact-sm', 'aria-label': `End ${name}` }}
      title={`End ${name}`}
      says="Nobody comes from it any more, and the courses that its people got by that are theirs no longer. Accounts, and what was read of rosters, stay."
      fields={[]}
      values={{}}
      verb="End it"
      keep={() => endPlatform(id)}
    />
  );
}
