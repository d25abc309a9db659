'use client';

import { Alert, Button, FileButton, Progress } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState, type DragEvent } from 'react';
import { sayCount } from '@/core/time/words';
import { upload } from './upload';
import classes from './data.module.css';
import '@mantine/core/styles/Progress.layer.css';

const TAKEN = '.csv,.tsv,.txt,.xlsx,.xlsm,.ods,.json,.jsonl,.ndjson,.ics,.zip';

/** Every file of what was dropped, those in folders as well. */
async function filesOf(event: DragEvent): Promise<File[]> {
  const entries = [...event.dataTransfer.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  if (!entries.some((entry) => entry.isDirectory)) return [...event.dataTransfer.files];
  const read = async (entry: FileSystemEntry): Promise<File[]> => {
    if (entry.isFile)
      return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))];
    const reader = (entry as FileSystemDirectoryEntry).createReader();
    const inner: FileSystemEntry[] = [];
    // A folder is read in pieces, until there is none left.
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
      if (some.length === 0) break;
      inner.push(...some);
    }
    return (await Promise.all(inner.map(read))).flat();
  };
  return (await Promise.all(entries.map(read))).flat().filter(({ name }) => !name.startsWith('.'));
}

/** Where files are dropped, one or many or a folder: they are sent and looked at, and nothing of them is taken yet. */
export function DropFiles({ timezone }: { timezone: string }) {
  const [over, setOver] = useState(false);
  const [sending, setSending] = useState<{ name: string; at: number; of: number; percent: number } | null>(null);
  const [troubles, setTroubles] = useState<string[]>([]);
  const router = useRouter();
  const send = async (files: readonly File[]) => {
    setTroubles([]);
    for (const [index, file] of files.entries()) {
      const tell = (percent: number) => setSending({ name: file.name, at: index + 1, of: files.length, percent });
      tell(0);
      const result = await upload(file, { kind: 'auto', source: 'files', timezone, hold: 'yes' }, null, tell);
      if (typeof result === 'string') setTroubles((known) => [...known, `${file.name}: ${result}`]);
    }
    setSending(null);
    router.refresh();
  };
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
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          void filesOf(event).then(send);
        }}
      >
        <strong>Drop files here, as your systems save them</strong>
        <span className={classes.soft}>
          Lists of participants, click logs, gradebooks, what is completed, registers, meetings, timetables: CSV, XLSX,
          ODS, JSON, iCalendar, or a ZIP or folder of these. Nothing is taken before you have seen what it would be
          taken for.
        </span>
        <FileButton multiple onChange={(files) => void send(files)} accept={TAKEN}>
          {(props) => (
            <Button {...props} variant="default" disabled={sending !== null}>
              Choose files
            </Button>
          )}
        </FileButton>
      </div>
      {sending && (
        <div role="status">
          <div className={classes.soft}>
            Sending {sending.name} ({sending.at} of {sayCount(sending.of, 'file')})
          </div>
          <Progress value={sending.percent} aria-label={`${Math.round(sending.percent)} % sent`} />
        </div>
      )}
      {troubles.map((trouble) => (
        <Alert key={trouble} color="red" mt="xs" role="alert">
          <bdi>{trouble}</bdi>
        </Alert>
      ))}
    </>
  );
}
