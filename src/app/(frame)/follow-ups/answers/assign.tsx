'use client';

import { Button, Group, TextInput } from '@mantine/core';
import { useForm } from '../../../_frame/use-form';
import { assignAnswer } from '../actions';

/** Says whose an answer is, by the learner's id, or that it is nobody's. */
export function Assign({ replyId }: { replyId: number }) {
  const form = useForm({ values: { learnerId: '' }, keep: ({ learnerId }) => assignAnswer(replyId, learnerId) });
  const nothing = () => undefined;
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (form.values.learnerId.trim()) form.submit({}, nothing);
      }}
    >
      <Group gap={8} align="end" mt={6}>
        <TextInput
          size="xs"
          label="It is by the learner with the id"
          maxLength={200}
          {...form.field('learnerId')}
          error={form.trouble}
        />
        <Button type="submit" loading={form.pending}>
          It is theirs
        </Button>
        <Button variant="default" disabled={form.pending} onClick={() => form.submit({ learnerId: '' }, nothing)}>
          Nobody’s
        </Button>
      </Group>
    </form>
  );
}
