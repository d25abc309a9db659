/** A course platform with people at work in it: what each does next, as statements. */
import { randomUUID } from 'node:crypto';
import type { Random } from '../../demo/random';

interface CampusPerson {
  mail: string;
  course: string;
}

export interface CampusItem {
  id: string;
  course: string;
  title: string;
  kind: string;
}

export interface Campus {
  people: CampusPerson[];
  items: CampusItem[];
}

/** What is done with each kind of item, the one after the other. */
const STEPS: Record<string, readonly string[]> = {
  page: ['opened', 'viewed'],
  file: ['downloaded'],
  link: ['opened'],
  video: ['played', 'progressed', 'progressed'],
  quiz: ['opened', 'started', 'answered', 'answered', 'submitted'],
  assignment: ['opened', 'saved', 'submitted'],
  discussion: ['opened', 'posted'],
};

interface Seat {
  person: CampusPerson;
  item: CampusItem;
  step: number;
}

export interface Statement {
  id: string;
  actor: { objectType: 'Agent'; mbox: string };
  verb: { id: string; display: Record<string, string> };
  object: { objectType: 'Activity'; id: string; definition: { name: Record<string, string> } };
  context: { platform: string; contextActivities: { parent: { id: string }[] } };
  timestamp: string;
}

/** Where the platform says it is; nothing is ever fetched from there. */
const HOME = 'https://campus.example';

/** Learners who sit at their work; each step somebody does the next thing. */
export class Platform {
  private readonly seats: Seat[] = [];
  /** While set, nobody gets past this item. */
  private stuck: CampusItem | null = null;

  constructor(
    private readonly campus: Campus,
    private readonly random: Random,
    private readonly places = 14,
  ) {}

  /** Has everybody who comes to an item stop there, as at a broken one; or lets them go on. */
  jam(isJammed: boolean): void {
    const course = this.seats[0]?.person.course ?? this.campus.people[0]?.course;
    this.stuck = isJammed ? (this.itemsOf(course).find((item) => item.kind === 'video') ?? null) : null;
  }

  get jammed(): string | null {
    return this.stuck?.title ?? null;
  }

  /** What happens in a step, at an instant. */
  step(now: number, count: number): Statement[] {
    return Array.from({ length: count }, () => this.next(now)).filter((one) => one !== null);
  }

  private next(now: number): Statement | null {
    if (this.seats.length < this.places && this.random.chance(0.4)) this.sitDown();
    if (this.seats.length === 0) return null;
    const place = this.random.int(0, this.seats.length - 1);
    const seat = this.seats[place];
    const steps = STEPS[seat.item.kind] ?? ['opened'];
    const verb = seat.item === this.stuck ? 'opened' : steps[seat.step];
    const said = statement(seat, verb, now);
    seat.step += 1;
    if (seat.item === this.stuck || seat.step >= steps.length) {
      if (this.random.chance(0.12)) this.seats.splice(place, 1);
      else Object.assign(seat, { item: this.choose(seat.person.course), step: 0 });
    }
    return said;
  }

  private sitDown(): void {
    if (this.campus.people.length === 0) return;
    const person = this.random.pick(this.campus.people);
    if (this.seats.some((seat) => seat.person.mail === person.mail)) return;
    if (this.itemsOf(person.course).length === 0) return;
    this.seats.push({ person, item: this.choose(person.course), step: 0 });
  }

  private choose(course: string): CampusItem {
    if (this.stuck?.course === course && this.random.chance(0.6)) return this.stuck;
    return this.random.pick(this.itemsOf(course));
  }

  private itemsOf(course: string | undefined): CampusItem[] {
    return this.campus.items.filter((item) => item.course === course && item.kind !== 'session');
  }
}

function statement({ person, item }: Seat, verb: string, now: number): Statement {
  return {
    id: randomUUID(),
    actor: { objectType: 'Agent', mbox: `mailto:${person.mail}` },
    verb: { id: `${HOME}/verbs/${verb}`, display: { 'en-GB': verb } },
    object: {
      objectType: 'Activity',
      id: `${HOME}/courses/${encodeURIComponent(item.course)}/${encodeURIComponent(item.id)}`,
      definition: { name: { 'en-GB': item.title } },
    },
    context: {
      platform: 'campus stand-in',
      contextActivities: { parent: [{ id: `${HOME}/courses/${encodeURIComponent(item.course)}` }] },
    },
    timestamp: new Date(now).toISOString(),
  };
}
