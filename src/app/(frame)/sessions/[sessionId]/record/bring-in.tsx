'use client';

import { Alert, Button, FileButton, Group, Progress, TextInput } from '@mantine/core';
import { useState, type DragEvent } from 'react';
import type { Mapping } from '@/core/imports/mapping';
import type { Preview, PreviewRequest } from '@/workers/preview';
import { MappingForm } from './mapping-form';
import { PreviewTable } from './preview-table';
import { sayBytes, upload } from '../../../set-up/data/upload';
import classes from '../../../set-up/data/data.module.css';
import '@mantine/core/styles/Progress.layer.css';

interface Remembered {
  source: string;
  mapping: Mapping;
}

function readPreview(request: PreviewRequest): Promise<Preview> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('../../../../../workers/preview.ts', import.meta.url));
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
  source: string;
  /** Which column is what; null for our own headings. */
  mapping: Mapping | null;
}

interface Props {
  /** Columns that a record of presence may have. */
  columns: string[];
  zone: string;
  remembered: Remembered[];
  /** The session that the file is of. */
  session: string;
  /** What happens with the import once it is sent. */
  onSent: (id: number) => void;
}

/** A record of presence is dropped or chosen, its first rows are shown as they would be taken, then it is brought in. */
export function BringIn({ columns, zone, remembered, session, onSent }: Props) {
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [timezone, setTimezone] = useState(zone);
  const [sent, setSent] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [over, setOver] = useState(false);

  /** Reads the file anew for what is chosen now; a file whose headings do not do gets a mapping to begin with. */
  const look = async (next: Chosen, propose: boolean) => {
    setChosen(next);
    setTrouble(null);
    try {
      const read = await readPreview({ file: next.file, kind: 'presence', mapping: next.mapping });
      const known = remembered.find((one) => one.source === next.source);
      const begin = known?.mapping ?? (read.headingProblem ? proposed(read, timezone) : null);
      if (propose && begin) return await look({ ...next, mapping: begin }, false);
      setPreview(read);
    } catch {
      setTrouble('The file could not be read. It may have moved, or be open in another program.');
    }
  };
  const choose = async (file: File | null) => {
    if (!file) return;
    setPreview(null);
    await look({ file, source: chosen?.source ?? 'files', mapping: null }, true);
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
    const { file, source, mapping } = chosen;
    const values = { kind: 'presence', source, timezone, session };
    const result = await upload(file, values, mapping && { ...mapping, timezone }, setSent);
    setSent(null);
    if (typeof result === 'string') return setTrouble(result);
    setChosen(null);
    setPreview(null);
    onSent(result);
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
        <FileButton onChange={(next) => void choose(next)} accept=".csv,.tsv,.txt,text/csv,text/tab-separated-values">
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
            <TextInput
              label="Source"
              value={chosen.source}
              maxLength={100}
              onChange={(event) => setChosen({ ...chosen, source: event.currentTarget.value })}
              onBlur={() => {
                const known = remembered.find((one) => one.source === chosen.source);
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
              {chosen.mapping ? (
                <MappingForm
                  heading={preview.heading}
                  rows={preview.rows}
                  columns={columns}
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
