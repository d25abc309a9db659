'use client';

import { Chip, Group, Input, NativeSelect, Radio, Stack, TextInput, Textarea } from '@mantine/core';
import { DayField } from './day-field';
import { InstantField } from './instant-field';
import type { FormValues } from './use-form';
import '@mantine/core/styles/Chip.layer.css';
import '@mantine/core/styles/RadioIndicator.layer.css';
import '@mantine/core/styles/Radio.layer.css';
import type { Choice } from './choices';

interface Common<F> {
  name: keyof F & string;
  label: string;
  description?: string;
  placeholder?: string;
  /** Letters at most. */
  most?: number;
  /** Whether it is asked for, by what the others hold. */
  shown?: (values: F) => boolean;
}

/** A field of a form: what it is called and how it is filled in. */
export type Field<F = FormValues> = Common<F> &
  (
    | { type?: 'text' | 'email' | 'tel' | 'password' | 'day' }
    | { type: 'instant'; atEnd?: boolean }
    /** A longer text: Enter breaks the line, Ctrl and Enter sends. */
    | { type: 'lines'; lines?: number }
    | { type: 'choice' | 'radio'; choices: readonly Choice[] }
    /** Any of some names, or of choices. */
    | { type: 'labels'; names: readonly (string | Choice)[] }
    /** A text with some to choose from, which may go by what the others hold. */
    | { type: 'offers'; offers: readonly string[] | ((values: F) => readonly string[]) }
  );

interface Props {
  field: Field;
  first: boolean;
  value: string | string[] | undefined;
  values: FormValues;
  error?: string;
  onChange: (value: string | string[]) => void;
  onSend: () => void;
}

/** One field of a form, by its type. */
export function FormField({ field, first, value, values, error, onChange, onSend }: Props) {
  const { name, label, description, placeholder, most = 500 } = field;
  const text = typeof value === 'string' ? value : '';
  const said = { label, description, error };
  const focus = first || undefined;
  const typed = {
    ...said,
    placeholder,
    maxLength: most,
    value: text,
    'data-autofocus': focus,
    onChange: (event: { currentTarget: { value: string } }) => onChange(event.currentTarget.value),
  };
  switch (field.type) {
    case 'day':
      return <DayField {...said} value={text} onChange={onChange} autoFocus={focus} />;
    case 'instant':
      return <InstantField {...said} atEnd={field.atEnd} value={text} onChange={onChange} />;
    case 'lines':
      return (
        <Textarea
          {...typed}
          autosize
          minRows={field.lines ?? 4}
          maxRows={16}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) onSend();
          }}
        />
      );
    case 'choice':
      return <NativeSelect {...typed} data={[...field.choices]} />;
    case 'radio':
      return (
        <Radio.Group {...said} value={text} onChange={onChange}>
          <Stack gap={6} mt={4}>
            {field.choices.map((choice) => (
              <Radio key={choice.value} {...choice} />
            ))}
          </Stack>
        </Radio.Group>
      );
    case 'labels':
      if (field.names.length === 0) return null;
      return (
        <Input.Wrapper {...said} labelElement="div">
          <Chip.Group multiple value={Array.isArray(value) ? value : []} onChange={onChange}>
            <Group gap={6} role="group" aria-label={label}>
              {field.names
                .map((one) => (typeof one === 'string' ? { value: one, label: one } : one))
                .map((choice) => (
                  <Chip key={choice.value} value={choice.value} size="xs">
                    {choice.label}
                  </Chip>
                ))}
            </Group>
          </Chip.Group>
        </Input.Wrapper>
      );
    case 'offers': {
      const offers = typeof field.offers === 'function' ? field.offers(values) : field.offers;
      return (
        <div>
          <TextInput {...typed} list={`offers-${name}`} />
          <datalist id={`offers-${name}`}>
            {offers.map((offer) => (
              <option key={offer} value={offer} />
            ))}
          </datalist>
        </div>
      );
    }
    default:
      return <TextInput {...typed} type={field.type} />;
  }
}
