import { TableTd, TableTr } from '@mantine/core';
import { EVERY } from '@/core/imports/every';
import { sayInstant } from '@/core/time/words';
import { sayAddress } from '@/server/imports/addresses/addresses';
import type { listAddresses } from '@/server/imports/reads';
import { PlainTable } from '@/ui/plain-table';
import { AddAddress, AddressActions } from './address-actions';
import classes from './data.module.css';

type Address = Awaited<ReturnType<typeof listAddresses>>[number];

interface Props {
  addresses: Address[];
  parts: { value: string; label: string }[];
  zone: string;
  now: number;
}

/** What comes by itself: from addresses, and out of the watched folder. */
export function ByItself({ addresses, parts, zone, now }: Props) {
  return (
    <section id="by-itself" aria-labelledby="by-itself-title">
      <h2 id="by-itself-title" className={classes.past}>
        By itself, next week
      </h2>
      <p className={classes.soft}>
        A file whose columns were settled here once needs nobody the next time: put it into <code>drop/SOURCE/</code> of
        the data folder, or give the https address that it is always found at. The address of a calendar keeps a
        timetable true. One whose columns have changed stops, and says which.
      </p>
      {addresses.length > 0 && (
        <PlainTable label="Addresses" heads={['Address', 'Fetched', 'Last']} last="Change">
          {addresses.map((address) => (
            <TableTr key={address.id}>
              <TableTd>
                <bdi>{sayAddress(address.url)}</bdi>
                <div className={classes.soft}>
                  {address.source}
                  {address.part !== null && ` · ${address.part}`}
                </div>
              </TableTd>
              <TableTd>
                {EVERY[address.every_minutes as keyof typeof EVERY] ?? `every ${address.every_minutes} min`}
              </TableTd>
              <TableTd>
                {address.checked_at === null ? 'not yet' : sayInstant(address.checked_at, zone, now)}
                {address.taken_at !== null && (
                  <div className={classes.soft}>last changed {sayInstant(address.taken_at, zone, now)}</div>
                )}
                {address.problem !== null && (
                  <div className={classes.fault}>
                    It {address.problem}
                    {address.failing_since !== null && ` (since ${sayInstant(address.failing_since, zone, now)})`}
                  </div>
                )}
              </TableTd>
              <TableTd>
                <AddressActions id={address.id} address={sayAddress(address.url)} />
              </TableTd>
            </TableTr>
          ))}
        </PlainTable>
      )}
      <AddAddress parts={parts} />
    </section>
  );
}
