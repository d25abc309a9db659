import { Table } from '@mantine/core';
import { bandWord } from '@/core/drift/bands';
import { PART_WORDS } from '@/core/drift/order';
import type { Move, WatchPosition } from '@/core/drift/preview';
import { sayCount } from '@/core/time/words';
import type { SettingPreview } from '@/server/drift/setting-preview';
import { PlainTable } from '@/ui/plain-table';
import { PersonLink } from '../../../_people/person-link';
import classes from './weights.module.css';

const MOVES: Record<Move, { title: string; says: string }> = {
  joins: { title: 'Join today’s list', says: 'Nobody joins it' },
  leaves: { title: 'Leave it', says: 'Nobody leaves it' },
  moves: { title: 'Change their band or part', says: 'Nobody else moves' },
};

const sayPosition = ({ score, band, part }: WatchPosition) =>
  [score === null ? null : score.toFixed(1), bandWord(band), part === 'now' ? null : PART_WORDS[part]]
    .filter((one) => one !== null)
    .join(', ');

/** Who would stand elsewhere by the numbers above, and why. */
export function Movers({ preview }: { preview: SettingPreview }) {
  const { before, after, counts, movers, changes } = preview;
  return (
    <section className={classes.movers} aria-label="Who moves">
      <h2>
        Today’s list: {sayCount(before, 'person', 'people')} now, {after} by these numbers
      </h2>
      <p className={classes.usual}>
        {changes.length === 0 ? 'No number is another' : changes.join(', ')}. On the list stand those of the Watch’s{' '}
        <em>now</em> who are slipping or adrift.
      </p>
      {(Object.keys(MOVES) as Move[]).map((move) => {
        const moved = movers.filter((mover) => mover.move === move);
        const { title, says } = MOVES[move];
        if (moved.length === 0) return <p key={move}>{says}.</p>;
        return (
          <div key={move}>
            <h3>
              {title}: {counts[move]}
              {moved.length < counts[move] && ` (the first ${moved.length})`}
            </h3>
            <PlainTable label={title} heads={['Learner', 'Now', 'By these numbers', 'Why']} verticalSpacing={3}>
              {moved.map((one) => (
                <Table.Tr key={one.learnerId}>
                  <Table.Td>
                    <PersonLink learnerId={one.learnerId} name={one.name} />
                  </Table.Td>
                  <Table.Td>{sayPosition(one.before)}</Table.Td>
                  <Table.Td>{sayPosition(one.after)}</Table.Td>
                  <Table.Td>{one.why.join(', ')}</Table.Td>
                </Table.Tr>
              ))}
            </PlainTable>
          </div>
        );
      })}
    </section>
  );
}
