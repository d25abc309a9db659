'use client';

import { Alert, Button, FileButton, Group, NativeSelect, Progress, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState, type DragEvent } from 'react';
import type { FileKindName } from '@/core/imports/kinds';
import type { Mapping } from '@/core/imports/mapping';
import type { Preview, PreviewRequest } from '@/workers/preview';
import { MappingForm } from './mapping-form';
import { PreviewTable } from './preview-table';
import { sayBytes, upload } from './upload';
import classes from './data.module.css';
import '@mantine/core/styles/Progress.layer.css';

interface Kind {
  name: FileKindName;
  says: string;
  columns: string[];
}

interface Remembered {
  source: string;
  kind: FileKindName;
  mapping: Mapping;
}

function readPreview(request: PreviewRequest): Promise<Preview> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('../../../../workers/preview.ts', import.meta.url));
    worker.onmessage = ({ data }: MessageEvent<Preview>) => {
      resolve(data);
      worker.terminate();
    };
    worker.onerror = (event) => {
      reject(new Error(event.message));
      worker.terminate();
    };
    worker.postMessage(request);
  });
}

interface Chosen {
  file: File;
  kind: FileKindName;
  source: string;
  /** Which column is what; null for our own headings. */
  mapping: Mapping | null;
}

interface Props {
  kinds: Kind[];
  zone: string;
  remembered: Remembered[];
  /** Courses and groups that a calendar may be of. */
  parts?: { value: string; label: string }[];
  /** The session that the file is of, where it is known. */
  session?: string;
  /** What happens with the import once it is sent; without one the page is shown anew. */
  onSent?: (id: number) => void;
}

/** A file is dropped or chosen, its first rows are shown as they would be taken, then it is brought in. */
export function BringIn({ kinds, zone, remembered, parts = [], session: own, onSent }: Props) {
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [timezone, setTimezone] = useState(zone);
  const [sent, setSent] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const [session, setSession] = useState('');
  const [part, setPart] = useState('');
  const router = useRouter();

  /** Reads the file anew for what is chosen now; a file whose headings do not do gets a mapping to begin with. */
  const look = async (next: Chosen, propose: boolean, of = part) => {
    setChosen(next);
    setTrouble(null);
    try {
      const read = await readPreview({ ...next, part: of || undefined, timezone });
      const known = remembered.find((one) => one.source === next.source && one.kind === next.kind);
      const begin = known?.mapping ?? (read.headingProblem ? proposed(read, timezone) : null);
      if (propose && begin) return await look({ ...next, mapping: begin }, false, of);
      setPreview(read);
    } catch {
      setTrouble('The file could not be read. It may have moved, or be open in another program.');
    }
  };
  const choose = async (file: File | null) => {
    if (!file) return;
    const source = chosen?.source ?? 'files';
    const first = { file, source, kind: kinds[0].name, mapping: null };
    setPreview(null);
    setChosen(first);
    setTrouble(null);
    try {
      const { kind } = kinds.length === 1 ? first : await readPreview({ ...first, kind: null, timezone });
      await look({ ...first, kind }, true);
    } catch {
      setTrouble('The file could not be read. It may have moved, or be open in another program.');
    }
  };
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void choose(event.dataTransfer.files[0] ?? null);
  };
  const bringIn = async () => {
    if (!chosen) return;
    setTrouble(null);
    setSent(0);
    const { file, kind, source, mapping } = chosen;
    const values = { kind, source, timezone, session: own ?? session, part: preview?.isCalendar ? part : '' };
    const result = await upload(file, values, mapping && { ...mapping, timezone }, setSent);
    setSent(null);
    if (typeof result === 'string') return setTrouble(result);
    setChosen(null);
    setPreview(null);
    if (onSent) onSent(result);
    else router.refresh();
  };
  const undecided = chosen?.mapping?.dates === undefined && chosen?.mapping !== null;
  return (
    <>
      <div
        className={classes.drop}
        data-over={over || undefined}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={drop}
      >
        <span>Drop a file here, or</span>
        <FileButton
          onChange={(next) => void choose(next)}
          accept=".csv,.tsv,.txt,.ics,text/csv,text/tab-separated-values,text/calendar"
        >
          {(props) => (
            <Button {...props} variant="default">
              Choose a file
            </Button>
          )}
        </FileButton>
      </div>
      {trouble && (
        <Alert color="red" role="alert">
          {trouble}
        </Alert>
      )}
      {chosen && (
        <div className={classes.chosen}>
          <Group align="end" gap="md">
            <div>
              <strong>{chosen.file.name}</strong>
              <div className={classes.soft}>
                {sayBytes(chosen.file.size)}
                {preview && preview.problem === null && ` · ${preview.encoding}`}
              </div>
            </div>
            {kinds.length > 1 && !preview?.isCalendar && (
              <NativeSelect
                label="It holds"
                value={chosen.kind}
                onChange={(event) =>
                  void look({ ...chosen, kind: event.currentTarget.value as FileKindName, mapping: null }, true)
                }
                data={kinds.map((kind) => ({ value: kind.name, label: `${kind.name}: ${kind.says}` }))}
              />
            )}
            {chosen.kind === 'presence' && own === undefined && (
              <TextInput
                label="Session, where the file has no session_id"
                value={session}
                maxLength={200}
                onChange={(event) => setSession(event.currentTarget.value)}
              />
            )}
            {preview?.isCalendar && (
              <NativeSelect
                label="The calendar is of"
                value={part}
                onChange={(event) => {
                  setPart(event.currentTarget.value);
                  void look(chosen, false, event.currentTarget.value);
                }}
                data={[{ value: '', label: 'what each event’s category says' }, ...parts]}
              />
            )}
            <TextInput
              label="Source"
              value={chosen.source}
              maxLength={100}
              onChange={(event) => setChosen({ ...chosen, source: event.currentTarget.value })}
              onBlur={() => {
                const known = remembered.find((one) => one.source === chosen.source && one.kind === chosen.kind);
                if (known) void look({ ...chosen, mapping: known.mapping }, false);
              }}
            />
            <TextInput
              label="Time zone of times without an offset"
              value={timezone}
              onChange={(event) => setTimezone(event.currentTarget.value)}
            />
            <Button
              size="sm"
              onClick={() => void bringIn()}
              disabled={
                sent !== null || !preview || preview.problem !== null || preview.headingProblem !== null || undecided
              }
            >
              Bring it in
            </Button>
          </Group>
          {sent !== null && <Progress mt="sm" value={sent} aria-label={`${Math.round(sent)} % sent`} />}
          {preview?.problem && (
            <Alert color="red" mt="sm" role="alert">
              {preview.problem}
            </Alert>
          )}
          {preview && preview.problem === null && (
            <>
              {preview.isCalendar ? null : chosen.mapping ? (
                <MappingForm
                  heading={preview.heading}
                  rows={preview.rows}
                  columns={kinds.find((kind) => kind.name === chosen.kind)!.columns}
                  mapping={chosen.mapping}
                  problem={preview.headingProblem}
                  onChange={(mapping) => void look({ ...chosen, mapping }, false)}
                />
              ) : (
                <Button
                  variant="default"
                  size="compact-xs"
                  mt="sm"
                  onClick={() => void look({ ...chosen, mapping: proposed(preview, timezone) }, false)}
                >
                  Say which column is what
                </Button>
              )}
              <PreviewTable preview={preview} />
            </>
          )}
        </div>
      )}
    </>
  );
}

/** The mapping proposed; the order of day and month stays open where it could be either. */
function proposed({ proposal }: Preview, timezone: string): Mapping {
  return { columns: proposal?.columns ?? {}, dates: (proposal?.dates ?? undefined) as Mapping['dates'], timezone };
}
