'use client';

import { Alert, Button, FileButton, Group, NativeSelect, Progress, Table, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState, type DragEvent } from 'react';
import { foldHeading } from '@/core/formats/heading-name';
import type { Preview } from '@/workers/preview';
import { sayBytes, upload } from './upload';
import classes from './data.module.css';

interface Kind {
  name: string;
  says: string;
  columns: string[];
}

/** The kind whose headings the file has most of. */
function guessKind(heading: readonly string[], kinds: readonly Kind[]): string {
  const names = new Set(heading.map(foldHeading));
  const share = (kind: Kind) => kind.columns.filter((column) => names.has(column)).length / kind.columns.length;
  return [...kinds].sort((a, b) => share(b) - share(a))[0].name;
}

function readPreview(file: File): Promise<Preview> {
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
    worker.postMessage(file);
  });
}

/** A file is dropped or chosen, its first rows are shown, then it is brought in. */
export function BringIn({ kinds, zone }: { kinds: Kind[]; zone: string }) {
  const [file, setFile] = useState<File | null>(null);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [kind, setKind] = useState(kinds[0].name);
  const [source, setSource] = useState('files');
  const [timezone, setTimezone] = useState(zone);
  const [sent, setSent] = useState<number | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const router = useRouter();

  const choose = async (next: File | null) => {
    if (!next) return;
    setFile(next);
    setPreview(null);
    setTrouble(null);
    try {
      const read = await readPreview(next);
      setPreview(read);
      if (read.rows.length > 0) setKind(guessKind(read.rows[0], kinds));
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
    setTrouble(null);
    setSent(0);
    const fault = await upload(file!, { kind, source, timezone }, setSent);
    setSent(null);
    if (fault) setTrouble(fault);
    else {
      setFile(null);
      setPreview(null);
      router.refresh();
    }
  };

  const [heading, ...rows] = preview?.rows ?? [];
  const columns = kinds.find((one) => one.name === kind)!.columns;
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
      {file && (
        <div className={classes.chosen}>
          <Group align="end" gap="md">
            <div>
              <strong>{file.name}</strong>
              <div className={classes.soft}>
                {sayBytes(file.size)}
                {preview && preview.problem === null && ` · ${preview.encoding}`}
              </div>
            </div>
            <NativeSelect
              label="It holds"
              value={kind}
              onChange={(event) => setKind(event.currentTarget.value)}
              data={kinds.map((one) => ({ value: one.name, label: `${one.name}: ${one.says}` }))}
            />
            <TextInput
              label="Source"
              value={source}
              maxLength={100}
              onChange={(event) => setSource(event.currentTarget.value)}
            />
            <TextInput
              label="Time zone of times without an offset"
              value={timezone}
              onChange={(event) => setTimezone(event.currentTarget.value)}
            />
            <Button size="sm" onClick={() => void bringIn()} disabled={sent !== null || preview?.problem !== null}>
              Bring it in
            </Button>
          </Group>
          {sent !== null && <Progress mt="sm" value={sent} aria-label={`${Math.round(sent)} % sent`} />}
          {preview?.problem && (
            <Alert color="red" mt="sm" role="alert">
              {preview.problem}
            </Alert>
          )}
          {heading && (
            <div className={classes.scroll} tabIndex={0} role="group" aria-label="First rows of the file">
              <Table mt="sm" fz={12} verticalSpacing={2}>
                <Table.Thead>
                  <Table.Tr>
                    {heading.map((title, index) => (
                      <Table.Th key={index}>
                        {title}
                        {!columns.includes(foldHeading(title)) && <div className={classes.soft}>not used</div>}
                      </Table.Th>
                    ))}
                  </Table.Tr>
                </Table.Thead>
                <Table.Tbody>
                  {rows.map((cells, index) => (
                    <Table.Tr key={index}>
                      {cells.map((cell, place) => (
                        <Table.Td key={place}>
                          <bdi>{cell}</bdi>
                        </Table.Td>
                      ))}
                    </Table.Tr>
                  ))}
                </Table.Tbody>
              </Table>
            </div>
          )}
        </div>
      )}
    </>
  );
}
