'use client';

import { Kbd, Modal, Table } from '@mantine/core';

const KEYS = [
  ['/', 'Search'],
  ['j', 'Next person'],
  ['k', 'Previous person'],
  ['o', 'Open their page'],
  ['x', 'Select'],
  ['w', 'Write to the selected, or to the one under the cursor'],
  ['c', 'Log a call; then 1 to 4 say how it ended'],
  ['n', 'Note'],
  ['e', 'Close a follow-up; then 1 to 5 say what came of it'],
  ['u', 'Undo, while it is offered'],
  ['?', 'This list'],
] as const;

/** What each key does, in a dialog. */
export function KeyList({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Modal opened={opened} onClose={onClose} title="Keys" closeButtonProps={{ 'aria-label': 'Close' }}>
      <Table>
        <Table.Tbody>
          {KEYS.map(([key, does]) => (
            <Table.Tr key={key}>
              <Table.Td w={60}>
                <Kbd>{key}</Kbd>
              </Table.Td>
              <Table.Td>{does}</Table.Td>
            </Table.Tr>
          ))}
        </Table.Tbody>
      </Table>
    </Modal>
  );
}
