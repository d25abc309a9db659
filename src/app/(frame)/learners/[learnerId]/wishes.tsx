'use client';

import { WISHES, WISH_WORDS } from '@/core/contact/wishes';
import type { WishesInput } from '@/server/contact/wishes';
import type { FormOf } from '@/server/request/input';
import { FormButton } from '../../../_frame/form-button';
import { saveWishes } from './actions';

interface Props {
  learnerId: number;
  name: string;
  wishes: string[];
}

/** Notes what somebody wishes of how they are written to. */
export function WishesButton({ learnerId, name, wishes }: Props) {
  return (
    <FormButton
      label="What they wish…"
      title={`How ${name} wishes to be written to`}
      says="Every message keeps to it, also one that waits to go. Under each mail stands a link by which they say so themselves."
      fields={[
        {
          name: 'wishes',
          label: 'They wish to be written to',
          type: 'labels',
          names: WISHES.map((value) => ({ value, label: WISH_WORDS[value] })),
        },
      ]}
      values={{ wishes: wishes as FormOf<WishesInput>['wishes'] }}
      verb="Note it"
      keep={(form: FormOf<WishesInput>) => saveWishes(learnerId, form)}
    />
  );
}
