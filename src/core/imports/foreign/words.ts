/**
 * Words that other systems write into cells, in the languages of programmes: English, German, French, Spanish, Italian, Dutch,
 * Portuguese, Polish, Irish and Welsh as far as they are used there. One table each, to be added to; all folded as `foldWord`
 * does.
 */
import type { ItemKind } from '../../courses/item-kinds';
import { foldText } from '../../people/fold';

/** A word without case, marks over letters, full stops and outer spaces. */
export function foldWord(text: string): string {
  return foldText(text).replaceAll('.', '').replace(/\s+/g, ' ').trim();
}

const SECOND = 1000;
const MINUTE = 60 * SECOND;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;

/** Ms of a unit of time. Months and years are those that a system rounds to. */
export const UNITS: ReadonlyMap<string, number> = new Map(
  (
    [
      [
        SECOND,
        's sec secs second seconds sek sekunde sekunden seconde secondes segundo segundos secondo secondi seconden sekund sekunder',
      ],
      [MINUTE, 'm min mins minute minutes minuten minuto minutos minuti minut minuty minuta minuter minutter'],
      [
        HOUR,
        'h hr hrs hour hours std stunde stunden heure heures hora horas ora ore uur uren godz godzina godziny godzin timme timmar time timer',
      ],
      [DAY, 'd day days tag tage tagen jour jours dia dias giorno giorni dag dagen dzien dni dagar dage dager'],
      [
        7 * DAY,
        'w wk week weeks woche wochen semaine semaines semana semanas settimana settimane weken tydzien tygodnie tygodni vecka veckor uge uger uke uker',
      ],
      [
        30 * DAY,
        'month months monat monate monaten mois mes meses mese mesi maand maanden miesiac miesiace miesiecy manad manader maned maneder',
      ],
      [365 * DAY, 'y yr year years jahr jahre jahren an ans annee annees ano anos anno anni jaar jaren rok lata'],
    ] as const
  ).flatMap(([ms, words]) => words.split(' ').map((word) => [word, ms] as const)),
);

const words = (text: string): ReadonlySet<string> => new Set(text.split('|'));

/** Months, 1 to 12, in full and as they are shortened. */
export const MONTHS: ReadonlyMap<string, number> = new Map(
  [
    'january jan januar enero ene janvier janv gennaio gen januari janeiro stycznia styczen sty',
    'february feb februar febrero fevrier fevr febbraio februari fevereiro fev lutego luty lut',
    'march mar marz mrz marzo mars maart mrt marco marca marzec',
    'april apr abril abr avril avr aprile kwietnia kwiecien kwi',
    'may mai mayo maggio mag mei maio maja maj',
    'june jun juni junio juin giugno giu junho czerwca czerwiec cze',
    'july jul juli julio juillet juil luglio lug julho lipca lipiec lip',
    'august aug agosto ago aout augustus sierpnia sierpien sie',
    'september sep sept septiembre septembre settembre set setembro wrzesnia wrzesien wrz',
    'october oct oktober okt octubre octobre ottobre ott outubro out pazdziernika pazdziernik paz',
    'november nov noviembre novembre novembro listopada listopad lis',
    'december dec dezember dez diciembre dic decembre dicembre dezembro grudnia grudzien gru',
  ].flatMap((names, index) => names.split(' ').map((name) => [name, index + 1] as const)),
);

/** What stands where somebody was never there. */
export const NEVER = words(
  'never|never accessed|never logged in|nie|niemals|jamais|nunca|mai|nooit|nigdy|riamh|byth|aldrig|aldri|not yet|noch nie|none',
);

/** Done, or there. */
export const DONE = words(
  '✓|✔|☑|x|yes|y|true|done|complete|completed|passed|pass|achieved|ja|erledigt|abgeschlossen|fertig|bestanden|oui|fait|termine|acheve|valide|reussi|si|hecho|aprobado|superato|completado|terminado|fatto|completato|voltooid|klaar|sim|feito|concluido|tak|ukonczone',
);

/** Not done. */
export const NOT_DONE = words(
  '✗|✘|☐|no|n|false|incomplete|not done|not completed|not started|in progress|started|fail|failed|not passed|nein|offen|nicht erledigt|nicht abgeschlossen|nicht begonnen|in bearbeitung|begonnen|nicht bestanden|non|pas fait|non termine|non commence|en cours|echoue|incompleto|no iniciado|en curso|suspenso|no completado|pendiente|non completato|non iniziato|in corso|nee|niet begonnen|bezig|niet voltooid|nao|nie ukonczone|nie rozpoczeto|w toku',
);

/** Handed in by nobody, and counted so. */
export const MISSING = words(
  'missing|fehlt|fehlend|nicht abgegeben|manquant|non rendu|falta|no entregado|mancante|ontbreekt|brak',
);

/** Need not be done. */
export const EXCUSED = words(
  'excused|exempt|entschuldigt|befreit|excuse|dispense|exento|justificado|esonerato|giustificato|vrijgesteld|zwolniony',
);

/** Nothing stands there. */
export const NOTHING = words('|-|–|—|−|n/a|na|null|none|.|..|...|…|k a|leer');

/** A column or a row of totals or means, which are not brought in: it says so with one of these at its beginning or end. */
export const SUMS =
  /^(total|sum|average|mean|median|overall|grand total|course total|gesamt|summe|durchschnitt|mittelwert|schnitt|gesamtnote|endnote|moyenne|somme|promedio|media|suma|totale|totaal|gemiddelde|eindcijfer|srednia|razem)\b|\b(total|average|mean|gesamt|insgesamt|summe|durchschnitt|total du cours|total del curso|totale del corso|totaal)$|^(course|total del|total du|totale del|kurs) ?(gesamt|curso|cours|corso)\b|^(unposted )?(current|final|calculated|adjusted|provisional) (course )?(score|grade|mark|points|result|average)\b|^(note|nota|voto|ocena|calificacion|puntuacion|resultado|classificacao) (finale?|koncowa|total|global|generale)\b/;

/** Roles of whoever teaches or runs a course or a meeting: by the beginning of a word. */
const STAFF_WORDS =
  /\b(teacher|non-editing teacher|instructor|lecturer|trainer|facilitator|tutor|manager|administrator|admin|host|co-host|organi[sz]er|presenter|moderator|coach|staff|dozent|lehrende|lehrer|lehrkraft|kursleit|trainer|betreuer|leiter|organisator|referent|enseignant|formateur|professeur|intervenant|animateur|gestionnaire|organisateur|profesor|docente|formador|gestor|anfitrion|insegnante|formatore|professore|relatore|organizzatore|docent|leraar|begeleider|professor|nauczyciel|prowadzacy|wykladowca|organizator|larare|laerer|underviser)/;
const LEARNER_WORDS =
  /\b(student|learner|participant|pupil|trainee|attendee|lernende|teilnehm|schuler|etudiant|apprenant|eleve|alumno|estudiante|studente|partecipante|cursist|aluno|formando|uczestnik|uczen|deltag)/;

/** Is it a word for what somebody is in a course or a meeting? */
export function isRoleWord(text: string): boolean {
  const folded = foldWord(text);
  return (
    folded.length < 40 &&
    (STAFF_WORDS.test(folded) || LEARNER_WORDS.test(folded) || /^(guest|gast|invite|invitado|ospite)$/.test(folded))
  );
}

/** Does a role say that somebody is there to teach, and not to learn? @example isStaffWord('Non-editing teacher') // true */
export function isStaffWord(role: string): boolean {
  const folded = foldWord(role);
  return STAFF_WORDS.test(folded) && !LEARNER_WORDS.test(folded);
}

/** A row under the heading that gives what each column is out of. */
export const POINTS =
  /^(points|max|maximum|max points|maximum points|points possible|out of|possible|punkte|max punkte|maximale punkte|hochstpunktzahl|bareme|maximum possible|note maximale|puntos|puntuacion maxima|punteggio massimo|punti|punten|maksimum|punkty)\b/;

/** What an item is likely to be by a word of its title, in the languages of programmes; the first that is found is it. */
export const KIND_WORDS: readonly (readonly [kind: ItemKind, words: RegExp])[] = [
  [
    'quiz',
    /\b(quiz|test|exam|examen|prufung|klausur|prueba|cuestionario|questionnaire|prova|esame|toets|exame|egzamin|sprawdzian|check)/,
  ],
  [
    'assignment',
    /\b(assignment|essay|report|project|homework|aufgabe|hausaufgabe|abgabe|bericht|devoir|travail|rapport|tarea|trabajo|compito|opdracht|zadanie)/,
  ],
  ['discussion', /\b(discussion|forum|debate|diskussion|foro|discussione|discussie|dyskusja)/],
  ['video', /\b(video|film|lecture|recording|aufzeichnung|vorlesung|enregistrement|grabacion)/],
  ['session', /\b(session|meeting|webinar|live|workshop|sitzung|treffen|seance|sesion|reunion|riunione|bijeenkomst)/],
  ['file', /\b(file|pdf|document|slides|datei|dokument|folien|fichier|archivo|documento|bestand|plik)/],
  ['link', /\b(link|url|website|webseite|lien|enlace|sito)/],
];
