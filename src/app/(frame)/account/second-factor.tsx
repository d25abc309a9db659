'use client';

import { Button, Group, Modal } from '@mantine/core';
import { useState } from 'react';
import { sayCount } from '@/core/time/words';
import type { OfferedCodes } from '@/server/staff/second-factor';
import { CodesForm, PaperCodes } from '@/ui/second-factor';
import { FormDialog } from '../../_frame/form-dialog';
import { useAction } from '../../_frame/use-action';
import { newRecoveryCodes, offerCodes, removeCodes, setUpCodes } from './actions';

interface Props {
  factors: { codes: boolean; passkeys: number; recovery: number; isAskedFor: boolean };
}

type Doing =
  { what: 'set up'; offered: OfferedCodes } | { what: 'paper'; codes: string[] } | { what: 'renew' | 'remove' };

const CURRENT = [{ name: 'current' as const, label: 'The password you have now', type: 'password' as const }];

/** One's second factor: codes of an app, and codes on paper for when it is lost. */
export function SecondFactor({ factors }: Props) {
  const { codes, passkeys, recovery, isAskedFor } = factors;
  const [doing, setDoing] = useState<Doing | null>(null);
  const { pending, run } = useAction();
  const close = () => setDoing(null);
  const show = (paper: string[]) => setDoing({ what: 'paper', codes: paper });
  const setUp = () => run(offerCodes, { then: (offered) => setDoing({ what: 'set up', offered }) });
  const hasAny = codes || passkeys > 0;
  return (
    <>
      <p>
        {codes ? 'You show a code of an app as you sign in.' : 'A code of an app on your telephone is not asked for.'}
        {isAskedFor && ' Your role is asked for a second factor.'}
        {hasAny &&
          ` ${recovery === 0 ? 'No recovery codes are left: make new ones.' : `${sayCount(recovery, 'recovery code')} left.`}`}
      </p>
      <Group gap={8}>
        <Button variant="default" loading={pending} onClick={setUp}>
          {codes ? 'Set up another app…' : 'Set up an app…'}
        </Button>
        {hasAny && (
          <Button variant="default" onClick={() => setDoing({ what: 'renew' })}>
            New recovery codes…
          </Button>
        )}
        {codes && (
          <Button variant="default" onClick={() => setDoing({ what: 'remove' })}>
            Take the app off…
          </Button>
        )}
      </Group>
      {doing?.what === 'set up' && (
        <Modal opened onClose={close} title="Codes of an app">
          <CodesForm offered={doing.offered} withPassword keep={setUpCodes} onKept={show} />
        </Modal>
      )}
      {doing?.what === 'paper' && (
        <Modal opened onClose={close} title="Recovery codes" closeOnClickOutside={false}>
          <PaperCodes codes={doing.codes} />
          <Button onClick={close}>I have kept them</Button>
        </Modal>
      )}
      {doing?.what === 'renew' && (
        <FormDialog
          title="New recovery codes"
          says="Those you have now are good no more."
          fields={CURRENT}
          values={{}}
          verb="Make them"
          keep={newRecoveryCodes}
          onClose={() => setDoing((now) => (now?.what === 'renew' ? null : now))}
          onDone={show}
        />
      )}
      {doing?.what === 'remove' && (
        <FormDialog
          title="Take the app off"
          says={
            passkeys > 0
              ? 'Codes are asked for no more; your passkeys are.'
              : 'You sign in with your password alone, and your recovery codes are good no more.'
          }
          fields={CURRENT}
          values={{}}
          verb="Take it off"
          keep={removeCodes}
          onClose={close}
        />
      )}
    </>
  );
}
