'use client';

import { Button, Group } from '@mantine/core';
import { useState } from 'react';
import { MESSAGE_FIELDS, fieldFault } from '@/core/contact/template';
import { TAPS, TAP_NAMES, readTaps } from '@/core/contact/tap';
import type { TemplateInput } from '@/server/contact/templates';
import type { FormOf } from '@/server/request/input';
import { FormDialog } from '../../../_frame/form-dialog';
import { useAction } from '../../../_frame/use-action';
import { saveTemplate, moveTemplate, removeTemplate } from '../actions';
import classes from '../follow-ups.module.css';

type TemplateForm = FormOf<TemplateInput>;

interface Template {
  id: number;
  course: string | null;
  name: string;
  subject: string;
  body: string;
  answers: string;
  is_praise: number;
}

interface Props {
  templates: Template[];
  teams: { code: string; title: string }[];
  lead: boolean;
  mayChange: boolean;
}

function formOf({ name, subject, body, course, answers, is_praise }: Template): TemplateForm {
  return {
    ...{ name, subject, body, course: course ?? '', answers: readTaps(answers) },
    is_praise: is_praise === 1 ? 'yes' : 'no',
  };
}

/** The templates of one's teams: made, edited, put in order, taken away. */
export function Templates({ templates, teams, lead, mayChange }: Props) {
  const [editing, setEditing] = useState<{ id: number | null; form: TemplateForm } | null>(null);
  const [leaving, setLeaving] = useState<Template | null>(null);
  const { pending, run } = useAction();
  const empty: TemplateForm = {
    name: '',
    subject: '',
    body: '',
    course: lead ? '' : (teams[0]?.code ?? ''),
    answers: [],
    is_praise: 'no',
  };
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
            <span className={classes.soft}>
              {template.course ?? 'everyone'}
              {template.is_praise === 1 && ' · praise'}
            </span>
            {isOwn(template) && (
              <Group gap={4} ml="auto">
                <Button
                  variant="default"
                  size="compact-xs"
                  aria-label={`Move ${template.name} up`}
                  disabled={index === 0 || pending}
                  onClick={() => run(() => moveTemplate(template.id, -1), { failed: 'It was not moved' })}
                >
                  Up
                </Button>
                <Button
                  variant="default"
                  size="compact-xs"
                  aria-label={`Move ${template.name} down`}
                  disabled={index === templates.length - 1 || pending}
                  onClick={() => run(() => moveTemplate(template.id, 1), { failed: 'It was not moved' })}
                >
                  Down
                </Button>
                <Button
                  variant="default"
                  size="compact-xs"
                  onClick={() => setEditing({ id: template.id, form: formOf(template) })}
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
          {template.answers !== '' && (
            <div className={classes.soft}>
              Answers by a press:{' '}
              {readTaps(template.answers)
                .map((tap) => TAPS[tap].label)
                .join(' · ')}
            </div>
          )}
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
      {leaving && (
        <FormDialog
          title={`Remove the template ${leaving.name}?`}
          says="Messages written with it stay as they are."
          fields={[]}
          values={{}}
          verb="Remove"
          keep={() => removeTemplate(leaving.id)}
          onClose={() => setLeaving(null)}
        />
      )}
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

const FIELDS_THERE_ARE = `Fields: ${Object.keys(MESSAGE_FIELDS)
  .map((field) => `{{${field}}}`)
  .join(' ')}`;

/** What is wrong with the fields of a template's texts, in words. */
function faultOf({ subject = '', body = '' }: Partial<TemplateForm>): string | null {
  const fault = fieldFault(subject) ?? fieldFault(body);
  return fault && `The text ${fault}.`;
}

function TemplateDialog({ id, form, teams, lead, onClose }: DialogProps) {
  const choices = [
    ...(lead ? [{ value: '', label: 'everyone' }] : []),
    ...teams.map(({ code, title }) => ({ value: code, label: title })),
  ];
  return (
    <FormDialog
      size="lg"
      title={id === null ? 'A new template' : `Edit ${form.name}`}
      fields={[
        { name: 'name', label: 'Name', most: 80 },
        { name: 'course', label: 'For the team of', type: 'choice', choices },
        {
          name: 'is_praise',
          label: 'For',
          type: 'radio',
          choices: [
            { value: 'no', label: 'any message' },
            { value: 'yes', label: 'praise, from Good news' },
          ],
        },
        { name: 'subject', label: 'Subject', most: 200 },
        { name: 'body', label: 'Text', type: 'lines', lines: 7, most: 20_000, description: FIELDS_THERE_ARE },
        {
          name: 'answers',
          label: 'Answers by a press, as links under the mail',
          type: 'labels',
          names: TAP_NAMES.map((value) => ({ value, label: TAPS[value].label })),
        },
      ]}
      values={form}
      verb="Save the template"
      check={faultOf}
      keep={(kept: TemplateForm) => saveTemplate(id, kept)}
      onClose={onClose}
    />
  );
}
