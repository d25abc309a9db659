'use client';

import { Kbd, Modal, Table } from '@mantine/core';
import Link from 'next/link';
import { LEARNER_ACTIONS } from '../_people/learner-actions';

const KEYS: readonly (readonly [key: string, does: string])[] = [
  ['↓ ↑', 'Next and previous of a list; Home and End its first and last'],
  ['Enter', 'Open the page of the one under the cursor'],
  ['Space', 'Select the one under the cursor'],
  ...LEARNER_ACTIONS.map(({ key, label, many }): [string, string] => [
    key,
    `${label.replace('…', '')}: ${many ? 'the selected, or ' : ''}the one under the cursor`,
  ]),
  ['1 to 9', 'Choose in a dialog; give a mark in a roll, and 0 takes it away'],
  ['← → ↑ ↓', 'In a grid, from cell to cell'],
  ['u', 'Undo, while it is offered'],
  ['← →', 'On a learner’s page, the one before and after in the list'],
  ['/', 'Search'],
  ['?', 'This list'],
];

/** What each key does, in a dialog. */
export function KeyList({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Modal opened={opened} onClose={onClose} title="Keys">
      <Table>
        <Table.Tbody>
          {KEYS.map(([key, does]) => (
            <Table.Tr key={key}>
              <Table.Td w={80}>
                <Kbd>{key}</Kbd>
              </Table.Td>
              <Table.Td>{does}</Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
      <p>
        Letters can be switched off under{' '}
        <Link href="/account" onClick={onClose}>
          your account
        </Link>
        .
      </p>
    </Modal>
  );
}
