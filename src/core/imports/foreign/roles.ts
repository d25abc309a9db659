import { readAge, readLength } from './length';
import { UNITS, foldWord } from './words';

/** What a column of another system's file is about. */
export type ColumnRole =
  | 'name'
  | 'given_name'
  | 'family_name'
  | 'email'
  | 'learner_id'
  | 'account'
  | 'group'
  | 'course'
  | 'last_access'
  | 'status'
  | 'progress'
  | 'minutes'
  | 'time'
  | 'action'
  | 'item'
  | 'entered'
  | 'left'
  | 'duration'
  | 'score'
  | 'points'
  | 'done'
  | 'done_at'
  | 'address'
  | 'event_id'
  | 'session';

/** Headings by what they mean, folded, in the languages of `words.ts`; the first that fits is it. */
const HEADINGS: readonly (readonly [role: ColumnRole, words: string])[] = [
  [
    'email',
    'email|e mail|mail|email address|e mail address|e mail adresse|mailadresse|courriel|adresse mel|correo|correo electronico|posta elettronica|e mailadres',
  ],
  ['given_name', 'given name|first name|firstname|forename|vorname|prenom|nombre|nome|voornaam|imie'],
  [
    'family_name',
    'family name|last name|lastname|surname|nachname|familienname|nom|nom de famille|apellido|apellidos|cognome|achternaam|nazwisko',
  ],
  [
    'learner_id',
    'id|learner id|student id|student number|user id|id number|number|person id|employee number|personnel number|matrikelnummer|matrikel|numero etudiant|numero|nummer|studentnummer',
  ],
  [
    'account',
    'account|username|user name|login|login name|konto|benutzer|benutzername|identifiant|utilisateur|usuario|utente|gebruiker|user',
  ],
  [
    'name',
    'name|full name|learner|student|participant|attendee|user full name|display name|teilnehmer|teilnehmerin|name vorname|nom complet|nom et prenom|etudiant|participante|nombre completo|nome completo|partecipante|deelnemer|naam|person|who|who took part|member',
  ],
  [
    'last_access',
    'last access|last access to course|last course access|last active|last activity|last seen|last login|last visit|last accessed|letzter zugriff|zuletzt aktiv|letzte anmeldung|dernier acces|derniere connexion|ultimo acceso|ultimo accesso|laatste toegang|ostatni dostep',
  ],
  [
    'duration',
    'duration|time in meeting|time in session|minutes in meeting|attendance duration|dauer|anwesenheitsdauer|duree|duree de presence|duracion|durata|duur|time attended|total time|minutes attended',
  ],
  ['entered', 'joined|join time|entered|first join|came|beitritt|beigetreten|entree|arrivee|entrada|ingresso|binnen'],
  ['left', 'left|leave time|last leave|went|verlassen|austritt|sortie|depart|salida|uscita|vertrokken'],
  [
    'time',
    'time|date|date and time|timestamp|when|datum|zeit|zeitpunkt|uhrzeit|date et heure|heure|fecha|fecha y hora|hora|data|data e ora|tijd|created',
  ],
  [
    'action',
    'action|event|what|event name|verb|activity|aktion|ereignis|evenement|accion|evento|azione|gebeurtenis|what happened',
  ],
  [
    'item',
    'item|item id|item title|title|where|context|event context|object|resource|component|element|aktivitat|kontext|contexte|activite|ressource|actividad|contexto|attivita|onderdeel|page',
  ],
  ['group', 'group|groups|section|cohort|gruppe|gruppen|groupe|groupes|grupo|grupos|gruppo|groep|grupa'],
  ['course', 'course|course name|module|class|kurs|kursname|cours|curso|corso|cursus'],
  ['status', 'status|state|enrolment status|estado|stato|etat|statut'],
  [
    'progress',
    'progress|completion|per cent complete|% complete|fortschritt|progression|avancement|progreso|progresso|voortgang',
  ],
  [
    'score',
    'score|grade|mark|points earned|points scored|final grade|bewertung|erreichte punkte|note obtenue|calificacion|puntuacion|voto|cijfer|ocena',
  ],
  ['points', 'out of|points possible|max|maximum|max points|maximum points|max score|maximale punkte|note maximale'],
  [
    'done',
    'done|completed|complete|completion state|erledigt|abgeschlossen|termine|acheve|completado|completato|voltooid|ukonczone',
  ],
  [
    'done_at',
    'done on|completed on|completed at|completion date|date completed|erledigt am|abgeschlossen am|termine le|completado el',
  ],
  ['address', 'address|ip|ip address|network address|ip adresse|adresse ip|direccion ip|indirizzo ip'],
  ['event_id', 'event id|log id|entry id|record id'],
  ['session', 'session|session id|meeting id|meeting'],
  ['minutes', 'minutes|time spent|time on platform|hours|minuten|zeit auf der plattform|temps passe|minutos|minuti'],
];

const MEANINGS: ReadonlyMap<string, ColumnRole> = new Map(
  HEADINGS.flatMap(([role, words]) => words.split('|').map((word) => [word, role] as const)),
);

/** A heading as the table of meanings has it: folded, without a unit in brackets, marks as spaces. */
function plainHeading(heading: string): string {
  return foldWord(heading.replace(/\([^)]*\)|\[[^\]]*\]/g, ' ').replace(/[-_/:,]+/g, ' '));
}

/** What a heading means by its words alone. @example roleOfHeading('E-Mail-Adresse') // 'email' */
export function roleOfHeading(heading: string): ColumnRole | null {
  return MEANINGS.get(plainHeading(heading)) ?? null;
}

/** Ms of the unit that a heading names, in brackets or as a word. @example unitOfHeading('Duration (minutes)') // 60_000 */
export function unitOfHeading(heading: string): number | null {
  const bracketed = /[([]([^)\]]+)[)\]]/.exec(heading)?.[1];
  for (const text of [bracketed, ...heading.split(/[\s_-]+/)]) {
    const unit = text === undefined ? undefined : UNITS.get(foldWord(text));
    // A single letter beside words is no unit.
    if (unit !== undefined && (text === bracketed || text!.length > 2)) return unit;
  }
  return null;
}

const MAIL = /^[^\s@]+@[^\s@]+\.[^\s@]+$/;

/** Do most of the cells that hold something fit? */
function mostly(cells: readonly string[], fits: (cell: string) => boolean): boolean {
  const held = cells.map((cell) => cell.trim()).filter((cell) => cell !== '');
  return held.length > 0 && held.filter(fits).length >= 0.8 * held.length;
}

/**
 * What a column is about, by its heading and by what stands in it: a column of addresses is an address whatever it is called,
 * and one called so that holds none is not.
 *
 * @param cells of the first rows
 */
export function roleOfColumn(heading: string, cells: readonly string[]): ColumnRole | null {
  if (mostly(cells, (cell) => MAIL.test(cell))) return 'email';
  const role = roleOfHeading(heading);
  if (role === 'email' && cells.some((cell) => cell.trim() !== '')) return null;
  const unit = unitOfHeading(heading) ?? undefined;
  const isLength = (cell: string) => readLength(cell, unit) !== null;
  if (role === 'time' || role === 'left' || role === null) {
    // "Time" beside a name may be how long, and an age is no time at all.
    if (mostly(cells, (cell) => readAge(cell) !== null) && cells.some((cell) => readAge(cell) === 'never'))
      return 'last_access';
    if (role === 'time' && mostly(cells, isLength)) return 'duration';
  }
  if (role === 'duration' || role === 'minutes') return mostly(cells, isLength) ? role : null;
  return role;
}
