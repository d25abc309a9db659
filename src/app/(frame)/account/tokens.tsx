'use client';

import { Button, Modal, TableTd, TableTr, TextInput } from '@mantine/core';
import { useState } from 'react';
import { sayDaysAgo, sayInstant, sayList } from '@/core/time/words';
import type { FormOf } from '@/server/request/input';
import type { ShownToken, TokenInput } from '@/server/staff/own-tokens';
import { PlainTable } from '@/ui/plain-table';
import { FormDialog } from '../../_frame/form-dialog';
import { useAction } from '../../_frame/use-action';
import { endToken, makeToken } from './actions';

interface Choice {
  value: string;
  label: string;
}

const DAYS: Choice[] = [
  { value: '7', label: 'a week' },
  { value: '30', label: '30 days' },
  { value: '90', label: '90 days' },
  { value: '365', label: 'a year' },
];

/** Makes a token, which is shown this once. @param parts that it can be limited to */
export function MakeToken({ parts }: { parts: Choice[] }) {
  const [doing, setDoing] = useState<'make' | { word: string } | null>(null);
  const everything = { value: '', label: 'all that you see' };
  return (
    <>
      <p>
        A program that asks the API with a token of yours does it in your name, sees no more than you do, and is named
        beside what it changes.
      </p>
      <Button variant="default" onClick={() => setDoing('make')}>
        Make a token…
      </Button>
      {doing === 'make' && (
        <FormDialog
          title="Make a token"
          fields={[
            { name: 'name', label: 'What for', description: 'Such as “nightly export”' },
            {
              name: 'may',
              label: 'It may',
              type: 'choice',
              choices: [
                { value: 'read', label: 'read' },
                { value: 'write', label: 'read and write' },
              ],
            },
            { name: 'part', label: 'It sees', type: 'choice', choices: [everything, ...parts] },
            { name: 'days', label: 'It ends after', type: 'choice', choices: DAYS },
            { name: 'current', label: 'The password you have now', type: 'password' },
          ]}
          values={{ may: 'read', days: '90', part: '' }}
          verb="Make it"
          keep={(values: FormOf<TokenInput>) => makeToken(values)}
          onClose={() => setDoing((now) => (now === 'make' ? null : now))}
          onDone={(word: string) => setDoing({ word })}
        />
      )}
      {doing !== null && doing !== 'make' && (
        <Modal opened onClose={() => setDoing(null)} title="Your token" closeOnClickOutside={false}>
          <p>Copy it to where it is needed: it is shown this once, and not kept here.</p>
          <TextInput
            aria-label="Token"
            readOnly
            value={doing.word}
            onFocus={(event) => event.currentTarget.select()}
            mb="sm"
          />
          <Button onClick={() => setDoing(null)}>I have copied it</Button>
        </Modal>
      )}
    </>
  );
}

/** Tokens, each with a way to end it. */
export function Tokens({ tokens, now, zone }: { tokens: ShownToken[]; now: number; zone: string }) {
  const { pending, run } = useAction();
  if (tokens.length === 0) return null;
  return (
    <PlainTable label="Tokens" mt="sm" heads={['Token', 'May', 'Sees', 'Made', 'Ends', 'Last used']} last="Actions">
      {tokens.map((token) => (
        <TableTr key={token.id}>
          <TableTd>
            <bdi>{token.name}</bdi>
          </TableTd>
          <TokenCells token={token} now={now} zone={zone} />
          <TableTd>
            <Button
              variant="default"
              size="compact-xs"
              loading={pending}
              aria-label={`End the token ${token.name}`}
              onClick={() => run(() => endToken(token.id), { done: `The token “${token.name}” has ended` })}
            >
              End
            </Button>
          </TableTd>
        </TableTr>
      ))}
    </PlainTable>
  );
}

/** What a token may, sees, and when it was made, ends and was used. */
export function TokenCells({ token, now, zone }: { token: ShownToken; now: number; zone: string }) {
  const { mayWrite, sees, made, expires, used, by } = token;
  const all = by === null ? 'all that you see' : 'all that they see';
  return (
    <>
      <TableTd>{mayWrite ? 'read and write' : 'read'}</TableTd>
      <TableTd>{sees === null ? all : sees.length === 0 ? 'nothing any more' : <bdi>{sayList(sees)}</bdi>}</TableTd>
      <TableTd>{sayInstant(made, zone, now)}</TableTd>
      <TableTd>{sayInstant(expires, zone, now)}</TableTd>
      <TableTd>{used === null ? 'never' : sayDaysAgo(used, now, zone)}</TableTd>
    </>
  );
}
