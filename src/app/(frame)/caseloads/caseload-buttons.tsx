'use client';

import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { FormDialog } from '../../_frame/form-dialog';
import { useAction } from '../../_frame/use-action';
import { makeCaseload, removeCaseload, renameCaseload, shareCaseload } from './actions';

interface Colleague {
  id: number;
  name: string;
}

interface Props {
  id: number;
  name: string;
  shared: readonly Colleague[];
  colleagues: readonly Colleague[];
}

/** Renames, shares and takes away a caseload of one's own. */
export function CaseloadButtons({ id, name, shared, colleagues }: Props) {
  const [asking, setAsking] = useState<'name' | 'share' | null>(null);
  const { run, pending } = useAction();
  const close = () => setAsking(null);
  return (
    <Group gap={6}>
      <Button variant="default" size="compact-sm" onClick={() => setAsking('name')}>
        Rename
      </Button>
      {colleagues.length > 0 && (
        <Button variant="default" size="compact-sm" onClick={() => setAsking('share')}>
          Share
        </Button>
      )}
      <Button
        variant="default"
        size="compact-sm"
        loading={pending}
        onClick={() => run(() => removeCaseload(id), { done: `${name} is taken away; its learners stay` })}
      >
        Remove
      </Button>
      {asking === 'name' && (
        <FormDialog
          title={`Rename ${name}`}
          fields={[{ name: 'name', label: 'Name', most: 80 }]}
          values={{ name }}
          verb="Save"
          keep={(form: { name: string }) => renameCaseload(id, form)}
          onClose={close}
        />
      )}
      {asking === 'share' && (
        <FormDialog
          title={`Share ${name}`}
          says="They look at it as you do, and see through it only whom they may see."
          fields={[{ name: 'names', label: 'Colleagues', type: 'labels', names: colleagues.map((one) => one.name) }]}
          values={{
            names: colleagues.filter((one) => shared.some((given) => given.id === one.id)).map((one) => one.name),
          }}
          verb="Share"
          keep={({ names }: { names: string[] }) =>
            shareCaseload(
              id,
              colleagues.filter((one) => names.includes(one.name)).map((one) => one.id),
            )
          }
          onClose={close}
        />
      )}
    </Group>
  );
}

/** Makes a caseload: of whom a list's filters find, or an empty one. */
export function NewCaseload({ rule, label }: { rule: string; label: string }) {
  const [asking, setAsking] = useState(false);
  return (
    <>
      <Button variant="default" size="compact-xs" onClick={() => setAsking(true)}>
        {label}
      </Button>
      {asking && (
        <FormDialog
          title="A caseload of your own"
          says={
            rule === ''
              ? 'It begins empty: select learners on any list and press Caseload.'
              : 'It follows the filters of this list as people come and go. Put people in or leave them out by hand later.'
          }
          fields={[{ name: 'name', label: 'Name', placeholder: 'Tuesday club', most: 80 }]}
          values={{}}
          verb="Save"
          keep={(form: { name: string }) => makeCaseload(form, rule)}
          onClose={() => setAsking(false)}
        />
      )}
    </>
  );
}
