import { describe, expect, it } from 'vitest';
import { roleOfColumn, roleOfHeading, type ColumnRole } from './roles';

/** Headings as systems of many makes and languages write them. */
const WRITTEN: Record<string, string> = {
  name: 'Student name|Learner name|Participant name|Attendee name|Name of learner|Full Name|Person name|Members|Name (Original Name)|Imię i nazwisko|Uczestnik|Aluno|Alumno|Studente|Student|Élève|Apprenant|Étudiant|Nombre y apellidos|Cognome e nome|Nom, prénom|Name, Vorname|Nachname, Vorname|Namn|Navn|Ainm|Enw|Estudiante|Surname, first name|Participant|Lernende|Kursteilnehmer|Attendees|Who',
  given_name:
    'First name(s)|Given names|Firstname|Prénom(s)|Imię|Nombre|Nome próprio|Förnamn|Fornavn|Preferred first name',
  family_name:
    'Surname|Last Name|Family name(s)|Nom de famille|Apellidos|Sobrenome|Apelido|Efternavn|Efternamn|Nazwisko|Legal surname',
  email:
    'Email|E-mail|User Email|Student e-mail|Email Address (learner)|Adres e-mail|Endereço de e-mail|E-post|Courriel institutionnel|Work email|Login email|Mail',
  learner_id:
    'Student ID|Student No|Student No.|Learner number|ID number|Learner ref|Candidate number|Matrikel-Nr.|Matr.-Nr.|Numéro étudiant|Nº de alumno|Roll number|Registration number|User ID|Participant ID|UID|Org Defined ID',
  last_access:
    'Last access|Last Access|Last accessed on|Last login|Last log in|Last activity date|Last online|Most recent visit|Letzte Aktivität|Zuletzt gesehen|Zuletzt online|Dernière activité|Dernière visite|Último inicio de sesión|Última conexión|Último acesso|Ultima attività|Laatst actief|Laatste login|Senast aktiv|Sidst set|Last seen|Last access (course)|Last active on|Date of last access|Last signed in|Ostatnie logowanie',
  time: 'Timestamp|Date/Time|Date & time|Datum/Uhrzeit|Datum und Zeit|Event time|Time (UTC)|Logged at|Occurred at|When|Date et heure|Fecha/hora|Data/hora|Czas|Date created|Event date|Access time|Time of access',
  action:
    'Action|Event name|Event type|Activity type|Type of event|Aktion|Évènement|Operation|Ereignisname|What they did|Description of event|Nazwa zdarzenia',
  item: 'Content item|Item title|Activity name|Resource name|Page title|Content|Event context|Ereigniskontext|Aktivität|Lesson|Lernobjekt|Module item|What they opened|Recurso|Nome da atividade|Titel|Seite',
  entered:
    'Join time|Joined at|Time joined|Entry time|Arrived|Arrival time|Start time|Beitrittszeit|Heure d’arrivée|Hora de entrada|First Join|Check-in time|Signed in',
  left: 'Leave time|Left at|Time left|Exit time|Departure time|End time|Austrittszeit|Heure de départ|Hora de salida|Last Leave|Check-out time',
  duration:
    'Duration|Duration (Minutes)|Time in Session (minutes)|Total duration|In-meeting duration|In-Meeting Duration|Attendance time|Dauer (Min.)|Anwesend (Minuten)|Durée (min)|Duración (minutos)|Total Duration (Minutes)|Time present|Length of stay|Minutes present|Attended (min)|Time attended',
  group: 'Group|Group name|Groups|Cohort|Class group|Seminargruppe|Groupe de TD|Turma|Klasse|Team|Tutor group',
  course:
    'Course|Course title|Course code|Course ID|Kurs|Kurstitel|Nom du cours|Nombre del curso|Course name|Course full name|Unit of study|Lehrgang|Formation',
  status: 'Status|Enrolment status|Enrollment status|State|Statut|Einschreibestatus|Participant status',
  progress:
    'Progress|Progress (%)|% complete|Percent complete|Completion %|Completion percentage|Fortschritt (%)|Avancement (%)|Progreso (%)|Course progress|Percentage completed|Progression (%)',
  minutes:
    'Minutes|Time spent|Time spent (min)|Hours spent|Lernzeit|Temps passé (h)|Total time spent|Time on task|Time online',
  score: 'Score|Grade|Mark|Result|Points|Note|Punkte|Nota|Final score|Points earned|Cijfer|Ergebnis',
  done: 'Completed|Done|Completed?|Completion status|Erledigt|Terminé|Completado|Is complete|Finished|Achieved',
  done_at:
    'Completed on|Completion date|Date completed|Completed at|Erledigt am|Finished on|Date of completion|Abschlussdatum|Date d’achèvement',
  points:
    'Out of|Max points|Points possible|Maximum|Maximum score|Max. Punkte|Barème|Max grade|Maximum mark|Possible points',
};

describe('what a heading means', () => {
  it.each(Object.entries(WRITTEN) as [ColumnRole, string][])('%s', (role, headings) => {
    const other = headings.split('|').filter((heading) => roleOfHeading(heading) !== role);
    expect(other).toEqual([]);
  });

  it.each([
    'Knots',
    'Quiz 1',
    'Week 3 essay',
    'Final report',
    'Attendance points',
    'Group project',
    'Name that knot',
    'Lesson 4',
    '',
  ])('is nothing of these where it is an item’s: %s', (heading) => expect(roleOfHeading(heading)).toBeNull());

  it('gives way to what stands under it', () => {
    expect(roleOfColumn('User name (full)', ['Ines Marrow', 'Quill, Tobias'])).toBe('name');
    expect(roleOfColumn('Benutzer', ['imarrow', 'tquill'])).toBe('account');
    expect(roleOfColumn('Zeit (Min.)', ['12', '40'])).toBe('duration');
    expect(roleOfColumn('Page', ['✓', '', '✗'])).toBeNull();
    expect(roleOfColumn('Lesson', ['Knots', 'Walls'])).toBe('item');
  });
});
