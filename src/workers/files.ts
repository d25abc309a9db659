/** The server's thread for whole lists as files; it ends when nobody has asked for one in a while. */
import { parentPort, workerData, type MessagePort } from 'node:worker_threads';
import { listNamed } from '@/server/lists';
import { fileHere } from '@/server/request/list';
import { reportHere } from '@/server/reports/make';
import { giveFile, type FileAsked } from '@/server/request/file-thread';
import { openRuntime } from '@/server/runtime';
import type { Settings } from '@/server/settings';

const runtime = await openRuntime(workerData as Settings, 'files');
/** Lists are read one after another: side by side they would be no sooner there, and all in memory at once. */
let last: Promise<unknown> = Promise.resolve();
parentPort!.on('message', ({ asked, port }: { asked: FileAsked; port: MessagePort }) => {
  void giveFile(port, () => {
    const file = last.then(() => {
      if ('report' in asked) return reportHere(runtime, asked);
      const { list, viewer, values, format, chosen } = asked;
      return fileHere(listNamed(list), { runtime, viewer }, values, format, chosen as readonly never[]);
    });
    last = file.catch(() => undefined);
    return file;
  });
});
parentPort!.postMessage('ready');
