/** `npm run lee`: the application's work from a shell. */
import { createReadStream } from 'node:fs';
import { basename, resolve } from 'node:path';
import { readFile } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { createInterface } from 'node:readline/promises';
import { setTimeout as pause } from 'node:timers/promises';
import { Command, Option } from 'commander';
import { onRecordAs } from '@/data/audit';
import { FILE_KIND_NAMES } from '@/core/imports/kinds';
import { STAFF_ROLES } from '@/core/staff/roles';
import { sayWorkingHours } from '@/core/access/when';
import { sayCount } from '@/core/time/words';
import { BUSY, isGivenUp } from '@/data/db';
import { findRun } from '@/data/imports/import-runs';
import { fitAsJson, fitAsText, proposeWeights } from '@/server/trial/fit';
import { RULES } from '@/server/trial/rules';
import { pastTrials, trialAsJson, trialAsText } from '@/server/trial/trial';
import { addAccount } from '@/server/staff/accounts';
import { resetSecond } from '@/server/staff/second-factor';
import { staffByEmail } from '@/data/staff/staff';
import { enterBreak, setWorkingHours } from '@/server/courses/calendar';
import { checkAll } from '@/server/check';
import { LISTS } from '@/server/lists';
import type { ExportFormat } from '@/server/request/exports';
import { listFile } from '@/server/request/list';
import { nameGap } from '@/server/feed/feed';
import { workOnNext } from '@/server/imports/queue';
import { oneRosterFile } from '@/server/imports/one-roster/export';
import { AUTO, receiveFile } from '@/server/imports/receive';
import { showRun } from '@/server/imports/show';
import { makeOwner } from '@/server/owner';
import { InvalidInput, NotFound } from '@/server/request/input';
import { errorLine } from '@/server/log';
import { helperBeside } from '@/server/drift/helper';
import { readAllPast, recalculate } from '@/server/drift/recalculate';
import { readDefinition } from '@/server/reports/define';
import { reportOf } from '@/server/reports/kept';
import { reportHere } from '@/server/reports/make';
import { READY_REPORTS } from '@/server/reports/ready';
import type { ReportFormat } from '@/server/reports/runs';
import { CannotOpen, openRuntime, type Runtime } from '@/server/runtime';
import { LAYOUTS, type Layout } from '@/core/reports/definition';
import { PROTOCOLS } from '@/core/feed/protocol';
import { makeCredential } from '@/server/feed/sources';
import { SettingsFault, readSettings } from '@/server/settings';
import { SYSTEM_VIEWER } from '@/server/system-viewer';
import { archiveNext, archivesFor, askArchive } from '@/server/archive/archive';
import { eraseDue } from '@/server/privacy/erasing';
import { archivesBeside, checkBackup, makeBackup } from '@/server/backup/make';
import { backUpIfDue } from '@/server/backup/schedule';
import { letGo } from '@/server/privacy/retention';

/** Opens the data folder, does the work, closes it. Errors become one clear line and exit code 1. */
function withRuntime<A extends unknown[]>(work: (runtime: Runtime, ...args: A) => Promise<void>) {
  return async (...args: A) => {
    try {
      const settings = { ...readSettings(process.env), logLevel: process.env.LEESHORE_LOG ?? 'warn' };
      const opened = await openRuntime(settings, 'worker');
      const runtime: Runtime = { ...opened, helper: helperBeside(import.meta.url, opened) };
      try {
        await onRecordAs('the shell', () => work(runtime, ...args));
      } finally {
        await runtime.db.destroy();
      }
    } catch (error) {
      console.error(sayFault(error));
      process.exitCode = 1;
    }
  };
}

class CommandFault extends Error {}

/** One sentence for whoever typed the command; what nobody foresaw says what kind of fault it was. */
function sayFault(error: unknown): string {
  if (error instanceof InvalidInput || error instanceof NotFound || error instanceof CommandFault) return error.message;
  if (error instanceof CannotOpen || error instanceof SettingsFault) return error.message;
  if (isGivenUp(error)) return BUSY;
  const { type, code, message } = errorLine(error);
  if (code === 'ENOSPC' || code === 'SQLITE_FULL')
    return 'The disk is full: make room and try again. Nothing was changed.';
  return `This could not be done: ${[type, code, message].filter(Boolean).join(', ')}`;
}

interface ImportOptions {
  source: string;
  timezone?: string;
  session?: string;
  part?: string;
  course?: string;
  create?: boolean;
  madeAt?: string;
  dates?: string;
}

/** Works until an import has ended. @throws CommandFault for one that was refused */
async function runToItsEnd(runtime: Runtime, owner: string, id: number) {
  for (;;) {
    await workOnNext(runtime, owner);
    const run = await findRun(runtime.db, id);
    if (run?.state === 'failed') throw new CommandFault(`${run.file_name} was refused. ${run.error}`);
    if (run?.state === 'done') {
      const { kind, read, accepted, duplicate, rejected, unmatched, made, waiting } = showRun(run);
      const foreign = run.plan === null ? {} : { made, waiting };
      return { id, kind, read, accepted, duplicate, rejected, unmatched, ...foreign };
    }
    await pause(500);
  }
}

const program = new Command('lee').description('Lee Shore from a shell');

program
  .command('import')
  .description('take a file in')
  .argument('<kind>', `${AUTO} to have it recognised, or one of ${FILE_KIND_NAMES.join(', ')}`)
  .argument('<file>')
  .option('--source <name>', 'where the file comes from', 'files')
  .option('--timezone <zone>', 'of times without an offset')
  .option('--session <id>', 'the session that a file of presence is of')
  .option('--part <name>', 'the course, or course/group, that a calendar is of')
  .option('--course <name>', 'the course of rows that name none, by its code or title')
  .option('--create', 'make learners, enrolments, courses and items that nobody has told of yet')
  .option('--made-at <time>', 'when the file was made: ages count back from it')
  .option('--dates <order>', 'iso, day_first or month_first, where the file does not tell')
  .action(
    withRuntime(async (runtime, kind: string, file: string, options: ImportOptions) => {
      const { madeAt, ...rest } = options;
      const asked = {
        kind,
        ...rest,
        create: options.create ? 'yes' : 'no',
        made_at: madeAt,
        file_name: basename(file),
      };
      const ids = await receiveFile(runtime, SYSTEM_VIEWER, asked, createReadStream(file));
      const owner = makeOwner();
      for (const id of ids) console.log(JSON.stringify(await runToItsEnd(runtime, owner, id)));
    }),
  );

/** Not a list, but everything that the standard has a place for. */
const ONE_ROSTER = 'one-roster';

program
  .command('export')
  .description('write a list to standard output, or everything as an archive of OneRoster 1.2')
  .argument('<view>', [...LISTS.map(({ name }) => name), ONE_ROSTER].join(', '))
  .addOption(new Option('--format <format>').choices(['csv', 'xlsx', 'json']).default('csv'))
  .action(
    withRuntime(async (runtime, view: string, options: { format: ExportFormat }) => {
      if (view === ONE_ROSTER) {
        await pipeline(oneRosterFile(runtime, SYSTEM_VIEWER), process.stdout, { end: false });
        return;
      }
      const list = LISTS.find(({ name }) => name === view);
      if (!list) {
        const views = [...LISTS.map(({ name }) => name), ONE_ROSTER].join(', ');
        throw new CommandFault(`There is no view ${view}. There are: ${views}.`);
      }
      const file = await listFile(list, { runtime, viewer: SYSTEM_VIEWER }, { staff: 'yes' }, options.format);
      await pipeline(file, process.stdout, { end: false });
    }),
  );

program
  .command('report')
  .description(
    'write a report to standard output: one that comes ready or that a program keeps, or a definition in a file',
  )
  .argument('<report>', [...Object.keys(READY_REPORTS), 'a number', 'a file of JSON'].join(', '))
  .addOption(new Option('--format <format>').choices(['csv', 'xlsx', 'json', 'pdf']).default('csv'))
  .addOption(new Option('--layout <layout>').choices(LAYOUTS).default('table'))
  .action(
    withRuntime(async (runtime, which: string, options: { format: ReportFormat; layout: Layout }) => {
      const { name, definition } = which.endsWith('.json')
        ? await readDefinition(runtime, SYSTEM_VIEWER, JSON.parse(await readFile(which, 'utf8')))
        : await reportOf(runtime, SYSTEM_VIEWER, which);
      const asked = { report: definition, title: name, viewer: SYSTEM_VIEWER, ...options };
      await pipeline(await reportHere(runtime, asked), process.stdout, { end: false });
    }),
  );

program
  .command('trial')
  .description(
    'a trial on past courses: replay a rule on finished courses, beside quiet for seven days and beside chance',
  )
  .option('--course <codes>', 'with commas between; every finished course without it')
  .option('--rule <rules>', `${RULES}; several with commas between`, 'watch')
  .option('--people <count>', 'people a week in each course; as many as quiet for seven days lists without it')
  .addOption(new Option('--format <format>').choices(['text', 'json']).default('text'))
  .action(
    withRuntime(
      async (runtime, options: { course?: string; rule: string; people?: string; format: 'text' | 'json' }) => {
        const { format, ...asked } = options;
        const results = await pastTrials(runtime, SYSTEM_VIEWER, asked);
        if (format === 'json') console.log(JSON.stringify(results.map(trialAsJson), null, 2));
        else console.log(results.map(trialAsText).join('\n\n'));
      },
    ),
  );

program
  .command('fit')
  .description(
    'weights of drift fitted to finished courses, checked on what was left out: proposed, and nothing changed',
  )
  .option('--course <codes>', 'with commas between; every finished course without it')
  .addOption(new Option('--format <format>').choices(['text', 'json']).default('text'))
  .action(
    withRuntime(async (runtime, { format, course }: { course?: string; format: 'text' | 'json' }) => {
      const found = await proposeWeights(runtime, SYSTEM_VIEWER, { course });
      console.log(format === 'json' ? JSON.stringify(fitAsJson(found), null, 2) : fitAsText(found));
    }),
  );

const account = program.command('account').description('accounts of people who sign in');
account
  .command('add')
  .description('add an account, or set the password of somebody who came by file')
  .requiredOption('--email <email>')
  .requiredOption('--given-name <name>')
  .option('--family-name <name>')
  .addOption(new Option('--role <role>').choices(STAFF_ROLES).default('mentor'))
  .option('--password <password>', 'else it is read from standard input')
  .action(
    withRuntime(
      async (
        runtime,
        options: { email: string; givenName: string; familyName?: string; role: string; password?: string },
      ) => {
        const password = options.password ?? (await readLine('Password (12 characters or more): '));
        const done = await addAccount(runtime, {
          email: options.email,
          given_name: options.givenName,
          family_name: options.familyName,
          role: options.role,
          password,
        });
        console.log(`${options.email}: ${done}`);
      },
    ),
  );

account
  .command('reset-second-factor')
  .description('take off the second factors of somebody who has lost them, the last lead included')
  .requiredOption('--email <email>')
  .action(
    withRuntime(async (runtime, { email }: { email: string }) => {
      const staff = await staffByEmail(runtime.db, email);
      if (!staff) throw new CommandFault(`There is no account of ${email}.`);
      await resetSecond(runtime, SYSTEM_VIEWER, staff.id);
      console.log(`${email}: signs in with the password alone until another is set up`);
    }),
  );

async function readLine(prompt: string): Promise<string> {
  const lines = createInterface({ input: process.stdin, output: process.stderr });
  try {
    return await lines.question(prompt);
  } finally {
    lines.close();
  }
}

program
  .command('break')
  .description('days on which a course rests: they are not counted as quiet')
  .argument('<course>')
  .argument('<from>', 'first day, as 2026-10-26')
  .argument('<to>', 'last day')
  .argument('[reason]', '', 'break')
  .action(
    withRuntime(async (runtime, course: string, from: string, to: string, reason: string) => {
      await enterBreak(runtime, SYSTEM_VIEWER, { course, from, to, reason });
      await bringUpToDate(runtime);
    }),
  );

program
  .command('feed-gap')
  .description('a time in which a source sent nothing although people were there')
  .argument('<source>')
  .argument('<from>', 'as 2026-11-03T06:00:00Z')
  .argument('<to>')
  .action(
    withRuntime(async (runtime, source: string, from: string, to: string) => {
      await nameGap(runtime, SYSTEM_VIEWER, { source, from, to });
      await bringUpToDate(runtime);
    }),
  );

program
  .command('credential')
  .description('a key and a secret with which a source sends events by itself; the secret is shown once')
  .argument('<source>')
  .option('--protocol <protocol>', PROTOCOLS.join(' or '), 'xapi')
  .action(
    withRuntime(async (runtime, source: string, { protocol }: { protocol: string }) => {
      const { key, secret } = await makeCredential(runtime, SYSTEM_VIEWER, { source, protocol });
      console.log(`key ${key}\nsecret ${secret}`);
    }),
  );

program
  .command('working-hours')
  .description('when people of the programme work, such as "mon-fri 08:00-17:00"')
  .argument('<hours>')
  .action(
    withRuntime(async (runtime, text: string) => {
      console.log(sayWorkingHours(await setWorkingHours(runtime, SYSTEM_VIEWER, { hours: text })));
    }),
  );

/** Makes the figures anew that a command has changed the grounds of, once no import is running. */
async function bringUpToDate(runtime: Runtime): Promise<void> {
  while ((await recalculate(runtime)) === 'later') await pause(200);
  await readAllPast(runtime);
}

program
  .command('backup')
  .description('copy the database, while the application runs')
  .argument('<file>')
  .option('--check', 'put it back in a folder of its own beside it, look through it, and take that away')
  .action(
    withRuntime(async (runtime, file: string, { check }: { check?: boolean }) => {
      const archived = await makeBackup(runtime, resolve(file));
      console.log(`Backed up to ${file}${archived === 0 ? '' : ` and ${archivesBeside(file)}`}`);
      if (check) sayChecked(await checkBackup(runtime, resolve(file)));
    }),
  );

program
  .command('backup-due')
  .description('make the backup that is due by the settings, look through it, and remove those that are too many')
  .action(
    withRuntime(async (runtime) => {
      const problems = await backUpIfDue(runtime);
      if (problems === null) console.log('No backup is due.');
      else sayChecked(problems);
    }),
  );

/** @throws CommandFault where something is wrong with a backup */
function sayChecked(problems: readonly string[]): void {
  if (problems.length > 0) throw new CommandFault(`The backup is not whole:\n  ${problems.join('\n  ')}`);
  console.log('It was put back in a folder of its own, and is whole.');
}

program
  .command('erase')
  .description('carry out the erasures whose 14 days are over, while the application runs or not')
  .action(
    withRuntime(async (runtime) => {
      const done = await eraseDue(runtime);
      console.log(done === 0 ? 'Nobody was erased: no erasure is due, or a file is being taken.' : `Erased: ${done}`);
    }),
  );

program
  .command('archive')
  .description('archive a course that has ended: its events go to files by month, its figures stay')
  .argument('<course>')
  .action(
    withRuntime(async (runtime, course: string) => {
      await askArchive(runtime, SYSTEM_VIEWER, { course });
      await archiveNext(runtime);
      const one = (await archivesFor(runtime, SYSTEM_VIEWER)).find((row) => row.course === course);
      if (one?.state !== 'done')
        throw new CommandFault(one?.error ?? 'It waits until the files that are being taken are.');
      console.log(`Archived: ${sayCount(one.events, 'event')} in ${sayCount(one.files, 'file')}`);
    }),
  );

program
  .command('let-go')
  .description('let go of what is kept no more, by the days that a lead has set')
  .action(
    withRuntime(async (runtime) => {
      const rows = await letGo(runtime);
      console.log(
        rows === 0 ? 'Nothing went: no days are over, or a file is being taken.' : `Gone: ${sayCount(rows, 'row')}`,
      );
    }),
  );

program
  .command('check')
  .description('is the database whole, and everything derived what it would be if made anew?')
  .action(
    withRuntime(async (runtime) => {
      const { learners, readings, waiting, problems } = await checkAll(runtime);
      for (const problem of problems.slice(0, 100)) console.error(problem);
      if (waiting.learners + waiting.enrolments > 0) {
        const [people, courses] = [sayCount(waiting.learners, 'learner'), sayCount(waiting.enrolments, 'enrolment')];
        console.log(`not compared: ${people} and ${courses} whose figures wait to be made anew`);
      }
      console.log(
        `${learners} learners and ${readings} drift readings recomputed, ${sayCount(problems.length, 'difference')}`,
      );
      if (problems.length > 0) process.exitCode = 1;
    }),
  );

await program.parseAsync();
