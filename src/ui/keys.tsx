'use client';

import { Kbd, Modal, Table } from '@mantine/core';
import { useDisclosure, useHotkeys } from '@mantine/hooks';

/** The list of keys, under `?`. */
export function Keys({ keys }: { keys: readonly (readonly [key: string, does: string])[] }) {
  const [opened, { open, close }] = useDisclosure();
  useHotkeys([['shift+?', open]]);
  return (
    <Modal opened={opened} onClose={close} title="Keys" closeButtonProps={{ 'aria-label': 'Close' }}>
      <Table>
        <Table.Tbody>
          {keys.map(([key, does]) => (
            <Table.Tr key={key}>
              <Table.Td w={60}>
                <Kbd>{key}</Kbd>
              </Table.Td>
              <Table.Td>{does}</Table.Td>
            </Table.Tr>
          ))}
          <Table.Tr>
            <Table.Td>
              <Kbd>?</Kbd>
            </Table.Td>
            <Table.Td>This list</Table.Td>
          </Table.Tr>
        </Table.Tbody>
      </Table>
    </Modal>
  );
}
