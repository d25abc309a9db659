import type { Knex } from 'knex';
import * as foundation from './0001-foundation';
import * as ownWatch from './0002-own-watch';
import * as contactAndRoster from './0003-contact-and-roster';
import * as evidence from './0004-evidence';
import * as trust from './0005-trust';
import * as readingsByDay from './0006-readings-by-day';
import * as sentences from './0007-sentences';
import * as sessions from './0008-sessions';
import * as work from './0009-work';
import * as driftAgain from './0010-drift-again';
import * as settingsAndTrials from './0011-settings-and-trials';
import * as sure from './0012-sure';
import * as deriving from './0013-deriving';
import * as plainWords from './0014-plain-words';
import * as constraints from './0015-constraints';
import * as whateverPeopleHave from './0016-whatever-people-have';
import * as byItself from './0017-by-itself';
import * as reports from './0018-reports';
import * as receivers from './0019-receivers';
import * as caseloads from './0020-caseloads';
import * as goodNews from './0021-good-news';
import * as postsAndSurveys from './0022-posts-and-surveys';
import * as flares from './0023-flares';
import * as whatWasTried from './0024-what-was-tried';
import * as answersByATap from './0025-answers-by-a-tap';
import * as certificates from './0026-certificates';
import * as crewAndPraise from './0027-crew-and-praise';
import * as erasing from './0028-erasing';
import * as whoLooked from './0029-who-looked';
import * as wishes from './0030-wishes';
import * as howLong from './0031-how-long';
import * as comingIn from './0032-coming-in';
import * as singleSignOn from './0033-single-sign-on';
import * as platforms from './0034-platforms';

interface Migration {
  name: string;
  up(db: Knex): Promise<void>;
  down(db: Knex): Promise<void>;
}

/** In the order they run. Only ever add at the end. */
export const MIGRATIONS: readonly Migration[] = [
  { name: '0001-foundation', ...foundation },
  { name: '0002-own-watch', ...ownWatch },
  { name: '0003-contact-and-roster', ...contactAndRoster },
  { name: '0004-evidence', ...evidence },
  { name: '0005-trust', ...trust },
  { name: '0006-readings-by-day', ...readingsByDay },
  { name: '0007-sentences', ...sentences },
  { name: '0008-sessions', ...sessions },
  { name: '0009-work', ...work },
  { name: '0010-drift-again', ...driftAgain },
  { name: '0011-settings-and-trials', ...settingsAndTrials },
  { name: '0012-sure', ...sure },
  { name: '0013-deriving', ...deriving },
  { name: '0014-plain-words', ...plainWords },
  { name: '0015-constraints', ...constraints },
  { name: '0016-whatever-people-have', ...whateverPeopleHave },
  { name: '0017-by-itself', ...byItself },
  { name: '0018-reports', ...reports },
  { name: '0019-receivers', ...receivers },
  { name: '0020-caseloads', ...caseloads },
  { name: '0021-good-news', ...goodNews },
  { name: '0022-posts-and-surveys', ...postsAndSurveys },
  { name: '0023-flares', ...flares },
  { name: '0024-what-was-tried', ...whatWasTried },
  { name: '0025-answers-by-a-tap', ...answersByATap },
  { name: '0026-certificates', ...certificates },
  { name: '0027-crew-and-praise', ...crewAndPraise },
  { name: '0028-erasing', ...erasing },
  { name: '0029-who-looked', ...whoLooked },
  { name: '0030-wishes', ...wishes },
  { name: '0031-how-long', ...howLong },
  { name: '0032-coming-in', ...comingIn },
  { name: '0033-single-sign-on', ...singleSignOn },
  { name: '0034-platforms', ...platforms },
];

export const migrationSource: Knex.MigrationSource<Migration> = {
  getMigrations: async () => [...MIGRATIONS],
  getMigrationName: (migration) => migration.name,
  getMigration: async (migration) => migration,
};
