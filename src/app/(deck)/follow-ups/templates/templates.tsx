'use client';

import { Alert, Button, Group, Modal, NativeSelect, Stack, TextInput, Textarea } from '@mantine/core';
import { notifications } from '@mantine/notifications';
import { useState, useTransition } from 'react';
import { MESSAGE_FIELDS, fieldFault } from '@/core/contact/template';
import { keepTheTemplate, moveTheTemplate, removeTheTemplate, type TemplateForm } from '../actions';
import classes from '../follow-ups.module.css';

interface Template {
  id: number;
  course: string | null;
  name: string;
  subject: string;
  body: string;
}

interface Props {
  templates: Template[];
  teams: { code: string; title: string }[];
  lead: boolean;
  mayChange: boolean;
}

/** The templates of one's teams: made, edited, put in order, taken away. */
export function Templates({ templates, teams, lead, mayChange }: Props) {
  const [editing, setEditing] = useState<{ id: number | null; form: TemplateForm } | null>(null);
  const [leaving, setLeaving] = useState<Template | null>(null);
  const [pending, startTransition] = useTransition();
  const empty: TemplateForm = { name: '', subject: '', body: '', course: lead ? '' : (teams[0]?.code ?? '') };
  const act = (work: () => Promise<{ ok: boolean; says?: string }>, failed: string) =>
    startTransition(async () => {
      const result = await work();
      if (!result.ok) notifications.show({ title: failed, message: result.says ?? '', color: 'red' });
    });
  const isOwn = (template: Template) => mayChange && (template.course !== null || lead);
  return (
    <>
      {mayChange && (lead || teams.length > 0) && (
        <Button onClick={() => setEditing({ id: null, form: empty })}>Make a template</Button>
      )}
      {templates.length === 0 && <p>There is no template yet. A template saves typing what you write every week.</p>}
      {templates.map((template, index) => (
        <article key={template.id} className={classes.answer} aria-label={template.name}>
          <Group gap={8}>
            <strong>{template.name}</strong>
            <span className={classes.soft}>{template.course ?? 'everyone'}</span>
            {isOwn(template) && (
              <Group gap={4} ml="auto">
                <Button
                  variant="default"
                  size="compact-xs"
                  aria-label={`Move ${template.name} up`}
                  disabled={index === 0 || pending}
                  onClick={() => act(() => moveTheTemplate(template.id, -1), 'It was not moved')}
                >
                  Up
                </Button>
                <Button
                  variant="default"
                  size="compact-xs"
                  aria-label={`Move ${template.name} down`}
                  disabled={index === templates.length - 1 || pending}
                  onClick={() => act(() => moveTheTemplate(template.id, 1), 'It was not moved')}
                >
                  Down
                </Button>
                <Button
                  variant="default"
                  size="compact-xs"
                  onClick={() => setEditing({ id: template.id, form: { ...template, course: template.course ?? '' } })}
                >
                  Edit
                </Button>
                <Button variant="default" size="compact-xs" onClick={() => setLeaving(template)}>
                  Remove…
                </Button>
              </Group>
            )}
          </Group>
          <div className={classes.soft}>{template.subject}</div>
          <div className={classes.text}>{template.body}</div>
        </article>
      ))}
      {editing && (
        <TemplateDialog
          key={editing.id ?? 'new'}
          id={editing.id}
          form={editing.form}
          teams={teams}
          lead={lead}
          onClose={() => setEditing(null)}
        />
      )}
      <Modal
        opened={leaving !== null}
        onClose={() => setLeaving(null)}
        title={`Remove the template ${leaving?.name ?? ''}?`}
        closeButtonProps={{ 'aria-label': 'Close' }}
      >
        <p>Messages written with it stay as they are.</p>
        <Group>
          <Button
            onClick={() => {
              act(() => removeTheTemplate(leaving!.id), 'It was not removed');
              setLeaving(null);
            }}
          >
            Remove
          </Button>
          <Button variant="default" onClick={() => setLeaving(null)}>
            Cancel
          </Button>
        </Group>
      </Modal>
    </>
  );
}

interface DialogProps {
  id: number | null;
  form: TemplateForm;
  teams: Props['teams'];
  lead: boolean;
  onClose: () => void;
}

function TemplateDialog({ id, form: given, teams, lead, onClose }: DialogProps) {
  const [form, setForm] = useState(given);
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [pending, startTransition] = useTransition();
  const set = (changes: Partial<TemplateForm>) => setForm({ ...form, ...changes });
  const fault = fieldFault(form.subject) ?? fieldFault(form.body);
  const keep = () =>
    startTransition(async () => {
      const result = await keepTheTemplate(id, form);
      if (result.ok) onClose();
      else setErrors(Object.fromEntries(result.errors.map(({ field, message }) => [field, message])));
    });
  return (
    <Modal
      opened
      onClose={onClose}
      size="lg"
      title={id === null ? 'A new template' : `Edit ${given.name}`}
      closeButtonProps={{ 'aria-label': 'Close' }}
    >
      <Stack gap="sm">
        <Group grow align="start">
          <TextInput
            label="Name"
            data-autofocus
            maxLength={80}
            value={form.name}
            error={errors.name}
            onChange={(event) => set({ name: event.currentTarget.value })}
          />
          <NativeSelect
            label="For the team of"
            value={form.course}
            error={errors.course}
            onChange={(event) => set({ course: event.currentTarget.value })}
            data={[
              ...(lead ? [{ value: '', label: 'everyone' }] : []),
              ...teams.map(({ code, title }) => ({ value: code, label: title })),
            ]}
          />
        </Group>
        <TextInput
          label="Subject"
          maxLength={200}
          value={form.subject}
          error={errors.subject}
          onChange={(event) => set({ subject: event.currentTarget.value })}
        />
        <Textarea
          label="Text"
          autosize
          minRows={7}
          maxRows={18}
          maxLength={20_000}
          value={form.body}
          error={errors.body}
          description={`Fields: ${Object.keys(MESSAGE_FIELDS)
            .map((field) => `{{${field}}}`)
            .join(' ')}`}
          onChange={(event) => set({ body: event.currentTarget.value })}
        />
        {fault && <Alert color="red">The text {fault}.</Alert>}
        <Group>
          <Button onClick={keep} loading={pending}>
            Keep the template
          </Button>
          <Button variant="default" onClick={onClose}>
            Cancel
          </Button>
        </Group>
      </Stack>
    </Modal>
  );
}
