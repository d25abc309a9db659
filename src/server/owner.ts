/**
 * Who works on something that one process at a time may do: a name that says which process it is,
 * so that one that died is noticed at once and not only when its lease ends.
 */
import { randomUUID } from 'node:crypto';
import { readFileSync, readlinkSync } from 'node:fs';
import { hostname } from 'node:os';

/** Reads something of the machine; empty where there is no such thing. */
function read(work: () => string): string {
  try {
    return work().trim();
  } catch {
    return '';
  }
}

/**
 * The space in which process ids mean something: the machine since its last start, and the
 * container. Two processes that share it can look for each other by id.
 */
const PLACE = [
  hostname(),
  read(() => readFileSync('/proc/sys/kernel/random/boot_id', 'utf8')),
  read(() => readlinkSync('/proc/self/ns/pid')),
]
  .join(' ')
  .replaceAll('|', ' ');

/** When a process began, in ticks since the machine's start: ids come again, this does not. */
function beginning(pid: number): string {
  // The name in the second field may hold anything, a bracket too; what follows its last one is plain.
  const fields = read(() => readFileSync(`/proc/${pid}/stat`, 'utf8').replace(/^.*\)/s, '')).split(' ');
  return fields[19] ?? '';
}

/** A name for whoever works on something: its place, process and a part of its own. */
export function makeOwner(): string {
  return [PLACE, process.pid, beginning(process.pid), randomUUID()].join('|');
}

/** Is it certain that an owner has died? Of one from another machine or container nobody can tell. */
export function isGone(owner: string): boolean {
  const [place, pid, began] = owner.split('|');
  if (place !== PLACE) return false;
  try {
    process.kill(Number(pid), 0);
  } catch (error) {
    return (error as { code?: string }).code === 'ESRCH';
  }
  return began !== beginning(Number(pid));
}

/** Is an owner of this very process? One that has let go of its work while the process goes on has broken down at it. */
export function isOfThisProcess(owner: string): boolean {
  const [place, pid, began] = owner.split('|');
  return place === PLACE && Number(pid) === process.pid && began === beginning(process.pid);
}

/** Does somebody hold a lease, and live? */
export function isHeld({ owner, lease_until }: { owner: string | null; lease_until: number }, real: number): boolean {
  return owner !== null && lease_until > real && !isGone(owner);
}
