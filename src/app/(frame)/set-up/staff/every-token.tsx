'use client';

import { Button, TableTd, TableTr } from '@mantine/core';
import type { ShownToken } from '@/server/staff/own-tokens';
import { PlainTable } from '@/ui/plain-table';
import { useAction } from '../../../_frame/use-action';
import { TokenCells } from '../../account/tokens';
import { endAnyToken } from '../actions';
import classes from '../set-up.module.css';

/** Every token that is open, with whose it is. */
export function EveryToken({ tokens, now, zone }: { tokens: ShownToken[]; now: number; zone: string }) {
  const { pending, run } = useAction();
  if (tokens.length === 0)
    return <p className={classes.soft}>Nobody has one. Everybody makes their own, under their name.</p>;
  return (
    <PlainTable label="Tokens" heads={['Whose', 'Token', 'May', 'Sees', 'Made', 'Ends', 'Last used']} last="Actions">
      {tokens.map((token) => (
        <TableTr key={token.id}>
          <TableTd>
            <bdi>{token.by}</bdi>
          </TableTd>
          <TableTd>
            <bdi>{token.name}</bdi>
          </TableTd>
          <TokenCells token={token} now={now} zone={zone} />
          <TableTd>
            <Button
              variant="default"
              size="compact-xs"
              loading={pending}
              aria-label={`End the token ${token.name} of ${token.by}`}
              onClick={() => run(() => endAnyToken(token.id), { done: `The token “${token.name}” has ended` })}
            >
              End
            </Button>
          </TableTd>
        </TableTr>
      ))}
    </PlainTable>
  );
}
