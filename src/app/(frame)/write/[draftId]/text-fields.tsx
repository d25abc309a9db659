'use client';

import { Button, Group, TextInput, Textarea } from '@mantine/core';
import { useRef } from 'react';
import { MESSAGE_FIELDS } from '@/core/contact/template';
import classes from './write.module.css';

interface Props {
  /** What its fields are called, in front of "subject" and "text". */
  to?: string;
  subject: string;
  body: string;
  /** A text message has none. */
  hasSubject: boolean;
  rows: number;
  /** Is it praise, of which each reader's deed is known? */
  isPraise: boolean;
  onChange: (text: { subject: string; body: string }) => void;
}

/** A subject and a text, with fields put in where the cursor stands. */
export function TextFields({ to, subject, body, hasSubject, rows, onChange, isPraise }: Props) {
  const area = useRef<HTMLTextAreaElement>(null);
  const insert = (field: string) => {
    const [from, until] = [area.current?.selectionStart ?? body.length, area.current?.selectionEnd ?? body.length];
    onChange({ subject, body: `${body.slice(0, from)}{{${field}}}${body.slice(until)}` });
    area.current?.focus();
  };
  return (
    <>
      {hasSubject && (
        <TextInput
          label={to ? `Subject to ${to}` : 'Subject'}
          mt="md"
          value={subject}
          maxLength={200}
          onChange={(event) => onChange({ subject: event.currentTarget.value, body })}
        />
      )}
      <Textarea
        ref={area}
        label={to ? `Text to ${to}` : 'Text'}
        mt="sm"
        autosize
        minRows={rows}
        maxRows={22}
        value={body}
        maxLength={20_000}
        onChange={(event) => onChange({ subject, body: event.currentTarget.value })}
      />
      <Group gap={6} mt={6} role="group" aria-label={`Put a field into the text${to ? ` to ${to}` : ''}`}>
        <span className={classes.soft}>Put in:</span>
        {Object.entries(MESSAGE_FIELDS)
          .filter(([field]) => isPraise || field !== 'good_news')
          .map(([field, words]) => (
            <Button key={field} variant="default" size="compact-xs" onClick={() => insert(field)}>
              {words}
            </Button>
          ))}
      </Group>
    </>
  );
}
