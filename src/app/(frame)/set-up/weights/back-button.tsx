'use client';

import { FormButton } from '../../../_frame/form-button';
import { backToSetting } from '../actions';

interface Props {
  /** Of the setting; 0 for the defaults, or the programme's. */
  id: number;
  course: string | null;
  /** Where one goes back to, in words. */
  to: string;
}

/** Goes back to an earlier setting, with words for it. */
export function BackButton({ id, course, to }: Props) {
  return (
    <FormButton
      label="Back to this"
      button={{ size: 'compact-xs' }}
      title={`Back to ${to}`}
      says="It holds from today on, and is saved as a setting of its own: nothing that was set is lost."
      verb="Go back"
      fields={[{ name: 'words', label: 'Why' }]}
      values={{ course: course ?? '', words: '' }}
      keep={(form: { course: string; words: string }) => backToSetting(id, form)}
    />
  );
}
