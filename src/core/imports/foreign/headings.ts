/**
 * What other systems call their columns, by what they mean, in the languages of `words.ts` and those of their neighbours: to be
 * added to. All folded, without units in brackets, marks as spaces, and without the small words and the nouns for people that
 * are passed over.
 */
import type { ColumnRole } from './roles';

/** Small words that say nothing in a heading. */
export const SMALL_WORDS = new Set(
  (
    'of the a an for in on at by to his her their is was were my your and or with ' +
    'der die das den dem des von vom im am zum zur und oder ' +
    'et du de la le les l d un une au aux ou y el los las del al e o do da dos das no na ' +
    'della dello dell dei degli delle il lo gli i di het een van en op w z i av och og i pa'
  ).split(' '),
);

/** Nouns for whoever a row is about. */
export const PEOPLE = new Set(
  (
    'student students learner learners participant participants attendee attendees user users member members candidate ' +
    'candidates person people pupil pupils trainee trainees apprentice delegate delegates employee employees ' +
    'teilnehmer teilnehmerin teilnehmende teilnehmender kursteilnehmer lernende lernender lerner benutzer nutzer schuler ' +
    'schulerin studierende studierender studentin mitglied ' +
    'etudiant etudiante etudiants eleve eleves apprenant apprenante participante utilisateur stagiaire membre ' +
    'alumno alumna alumnos estudiante usuario aprendiz studente studentessa partecipante utente allievo corsista ' +
    'aluno aluna formando utilizador deelnemer cursist leerling gebruiker uczestnik uczen uzytkownik kursant ' +
    'deltagare elev anvandare deltager bruger bruker'
  ).split(' '),
);

/** Words that names are called by: two of them in one heading are a whole name, however it is turned. */
export const NAME_WORDS = new Set(
  (
    'name names first last given family full surname forename middle vorname nachname familienname nom prenom noms prenoms famille ' +
    'nombre nombres apellido apellidos nome cognome sobrenome apelido voornaam achternaam naam imie nazwisko fornamn efternamn ' +
    'fornavn efternavn etternavn namn navn'
  ).split(' '),
);

/** What names somebody beside a noun for them, and nothing alone: "Student no." */
export const ID_WORDS = new Set(
  'id ids no n nr number ref reference code key identifier uid num numero nummer kennung cislo'.split(' '),
);

const HEADINGS: readonly (readonly [role: ColumnRole, words: string])[] = [
  [
    'email',
    'email|e mail|mail|email address|e mail address|mail address|work email|login email|primary email|contact email|e mail adresse|mailadresse|emailadresse|' +
      'courriel|adresse mel|adresse mail|adresse email|adresse electronique|adresse e mail|courriel institutionnel|mel|correo|correo electronico|direccion correo|direccion correo electronico|' +
      'posta elettronica|indirizzo email|indirizzo e mail|e mailadres|adres e mail|endereco e mail|endereco email|e post|epost|e postadress|adres email',
  ],
  [
    'given_name',
    'given name|given names|first name|first names|firstname|forename|forenames|preferred name|preferred first name|vorname|vornamen|rufname|prenom|prenoms|' +
      'nombre|nombres|nome|nome proprio|primeiro nome|voornaam|imie|fornamn|fornavn|first',
  ],
  [
    'family_name',
    'family name|family names|last name|last names|lastname|surname|legal surname|nachname|familienname|zuname|nom|nom famille|noms|apellido|apellidos|' +
      'cognome|sobrenome|apelido|ultimo nome|achternaam|nazwisko|efternamn|efternavn|etternavn|last',
  ],
  [
    'learner_id',
    'id|learner id|user id|id number|number|person id|person number|employee number|personnel number|staff number|candidate number|roll number|roll no|registration number|registration no|' +
      'admission number|matriculation number|uid|org defined id|sis id|external id|student number|studentnumber|studentid|userid|' +
      'matrikelnummer|matrikel|matrikel nr|matrikelnr|matr nr|personalnummer|kennung|numero|numero etudiant|matricule|nummer|studentnummer|expediente|numero expediente|matricola|numero matricola|numero album|nr albumu',
  ],
  [
    'account',
    'account|account name|username|user name|login|login name|login id|user|konto|benutzer|benutzername|anmeldename|nutzername|identifiant|nom utilisateur|utilisateur|usuario|nombre usuario|' +
      'utente|nome utente|gebruiker|gebruikersnaam|utilizador|nazwa uzytkownika|uzytkownik|anvandarnamn|brugernavn|brukernavn',
  ],
  [
    'name',
    'name|names|wer|qui|quien|chi|wie|kto|full name|fullname|user full name|display name|screen name|who|who took part|naam|volledige naam|namn|navn|ainm|enw|jmeno|' +
      'vollstandiger name|nom complet|nombre completo|nome completo|nome intero|imie nazwisko|pelne imie|affected user',
  ],
  [
    'last_access',
    'last access|last access course|last course access|last accessed|last accessed course|last active|last activity|last activity date|last active date|last seen|last seen here|last seen online|last login|last log in|last logon|last sign in|last signed in|' +
      'last visit|last visited|last online|last here|most recent visit|most recent access|most recent activity|date last access|date last accessed|date last login|date last activity|latest activity|latest access|' +
      'letzter zugriff|letzter zugriff kurs|zuletzt aktiv|zuletzt gesehen|zuletzt online|zuletzt angemeldet|zuletzt da|letzte anmeldung|letzte aktivitat|letzter besuch|letzter login|letztes login|' +
      'dernier acces|dernier acces cours|derniere connexion|derniere activite|derniere visite|derniere consultation|vu derniere fois|' +
      'ultimo acceso|ultimo acceso curso|ultima conexion|ultimo inicio sesion|ultima actividad|ultima visita|ultimo accesso|ultima attivita|ultimo login|ultimo acesso|ultima atividade|ultima entrada|' +
      'laatste toegang|laatst actief|laatste login|laatste activiteit|laatst gezien|laatste bezoek|ostatni dostep|ostatnie logowanie|ostatnia aktywnosc|ostatnio aktywny|' +
      'senast aktiv|senast inloggad|senaste aktivitet|sidst set|sidst aktiv|sist sett|sist aktiv|sidste login',
  ],
  [
    'duration',
    'duration|total duration|stayed|stay|time stayed|there|time meeting|time session|in meeting duration|in session duration|minutes meeting|attendance duration|attendance time|time attended|minutes attended|attended|time present|minutes present|length stay|' +
      'total time|total time in session|dauer|gesamtdauer|anwesenheitsdauer|anwesend|anwesenheit|verweildauer|teilnahmedauer|duree|duree presence|duree connexion|duree totale|temps presence|duracion|tiempo conexion|tiempo sesion|duracion total|' +
      'durata|tempo presenza|duur|aanwezig|duracao|czas trwania|czas obecnosci|varaktighet|varighed|varighet',
  ],
  [
    'entered',
    'joined|join time|joined time|time joined|entered|entry|entry time|time entered|first join|came|came in|arrived|arrival|arrival time|start time|check in|check in time|checked in|signed in|sign in time|in|' +
      'beitritt|beitrittszeit|beigetreten|eintritt|eintrittszeit|gekommen|ankunft|entree|heure entree|arrivee|heure arrivee|heure connexion|entrada|hora entrada|hora ingreso|ingresso|ora ingresso|entrata|ora entrata|binnen|hora inicio|wejscie|dolaczyl|godzina dolaczenia',
  ],
  [
    'left',
    'left|leave time|time left|last leave|went|went out|exit|exit time|departed|departure|departure time|end time|check out|check out time|checked out|signed out|out|' +
      'verlassen|verlassenszeit|austritt|austrittszeit|gegangen|sortie|heure sortie|depart|heure depart|heure deconnexion|salida|hora salida|uscita|ora uscita|vertrokken|hora saida|saida|hora fim|wyjscie|opuscil|godzina opuszczenia',
  ],
  [
    'time',
    'time|at|date|date time|datetime|date and time|timestamp|time stamp|when|event time|event date|access time|access date|time access|date access|time event|date event|logged|occurred|happened|date created|created|time created|' +
      'datum|zeit|zeitpunkt|uhrzeit|datum uhrzeit|datum zeit|zeitstempel|date heure|heure|horodatage|date evenement|fecha|fecha hora|hora|fecha evento|data|data ora|data hora|ora|momento|tijd|tijdstip|datum tijd|czas|data czas|data godzina|tid|tidspunkt|dato',
  ],
  [
    'action',
    'action|event|what|was|quoi|que|cosa|wat|co|event name|event type|type event|event action|verb|activity|activity type|operation|description event|what happened|what they did|did|' +
      'aktion|ereignis|ereignisname|ereignistyp|vorgang|handlung|evenement|nom evenement|type evenement|accion|evento|nombre evento|tipo evento|azione|nome evento|tipo di evento|gebeurtenis|actie|acao|zdarzenie|nazwa zdarzenia|akcja|handelse|handling|haendelse',
  ],
  [
    'item',
    'item|item id|item title|item name|title|where|wo|donde|dove|waar|gdzie|context|event context|object|object name|resource|resource name|resource title|component|element|content|content item|content name|content title|page|page title|page name|' +
      'lesson|lesson name|activity name|activity title|course item|module item|material|what they opened|opened|assessment|assessment name|assignment name|quiz name|test name|' +
      'aktivitat|name aktivitat|kontext|ereigniskontext|lernobjekt|inhalt|seite|titel|material|lektion|objekt|contexte|contexte evenement|activite|nom activite|ressource|contenu|page|' +
      'actividad|nombre actividad|contexto|contexto evento|recurso|contenido|attivita|contesto|contesto evento|risorsa|contenuto|onderdeel|activiteit|inhoud|pagina|atividade|nome atividade|conteudo|skladnik|kontekst|kontekst zdarzenia|zasob|aktywnosc|aktivitet|innehall|indhold',
  ],
  [
    'group',
    'group|groups|group name|group names|section|cohort|cohort name|class group|team|team name|tutor group|stream|set|tutorial group|study group|gruppe|gruppen|gruppenname|seminargruppe|lerngruppe|klasse|kohorte|' +
      'groupe|groupes|groupe td|groupe tp|promotion|classe|grupo|grupos|nombre grupo|turma|gruppo|gruppi|groep|groepen|klas|grupa|grupy|grupp|hold|equipo|equipe',
  ],
  [
    'course',
    'course|course name|course title|course code|course id|course full name|course short name|course number|module|module name|module code|class|class name|unit study|subject|programme|program|training|training course|' +
      'kurs|kursname|kurstitel|kurscode|kursnummer|lehrgang|veranstaltung|fach|cours|nom cours|intitule cours|code cours|formation|matiere|curso|nombre curso|titulo curso|asignatura|materia|corso|nome corso|titolo corso|cursus|cursusnaam|vak|disciplina|nome curso|przedmiot|nazwa kursu|fag|amne',
  ],
  [
    'status',
    'status|state|enrolment status|enrollment status|registration status|einschreibestatus|anmeldestatus|teilnahmestatus|statut|etat|statut inscription|estado|estado inscripcion|estado matricula|situacao|stato|stato iscrizione|inschrijvingsstatus|stan',
  ],
  [
    'progress',
    'progress|course progress|overall progress|completion|per cent complete|percent complete|percentage complete|percentage completed|progress percent|progress pct|percent completed|percentage progress|completion percentage|completion percent|completion rate|complete %|% complete|% completed|completion %|progress %|% progress|' +
      'fortschritt|kursfortschritt|bearbeitungsstand|progression|avancement|taux completion|taux achevement|taux avancement|progreso|avance|porcentaje completado|progresso|avanzamento|percentuale completamento|percentagem concluida|voortgang|postep|postepy|framsteg|fremskridt|fremdrift',
  ],
  [
    'score',
    'score|grade|mark|marks|points earned|points scored|points awarded|final grade|final score|final mark|result|percentage|points|score awarded|' +
      'bewertung|note|erreichte punkte|punkte|punktzahl|ergebnis|note obtenue|resultat|points obtenus|calificacion|puntuacion|nota|nota final|resultado|puntos|voto|punteggio|valutazione|risultato|cijfer|punten|resultaat|classificacao|pontuacao|ocena|wynik|punkty|betyg|karakter',
  ],
  [
    'points',
    'out of|points possible|possible points|possible|max|maximum|max points|maximum points|max score|maximum score|max grade|maximum grade|max mark|maximum mark|available points|points available|' +
      'maximale punkte|max punkte|hochstpunktzahl|maximale punktzahl|note maximale|bareme|puntuacion maxima|nota maxima|calificacion maxima|puntos posibles|punteggio massimo|voto massimo|maximaal|maximale punten|pontuacao maxima|maksimum|maks punkty',
  ],
  [
    'done',
    'done|completed|complete|completion state|completion status|finished|achieved|fulfilled|erledigt|abgeschlossen|abschlussstatus|fertig|termine|acheve|fini|etat achevement|completado|finalizado|terminado|estado finalizacion|completato|stato completamento|voltooid|afgerond|concluido|ukonczone|ukonczono|klart|fuldfort|fullfort',
  ],
  [
    'done_at',
    'done on|completed on|completed at|finished on|completion date|date completed|date completion|date finished|completed date|completion time|time completed|erledigt am|abgeschlossen am|abschlussdatum|fertig am|' +
      'termine le|acheve le|date achevement|date fin|completado el|fecha finalizacion|finalizado el|completato il|data completamento|voltooid op|datum voltooiing|concluido em|data conclusao|data ukonczenia',
  ],
  [
    'enrolled_on',
    'enrolled|enrolled on|enrolled at|enrolment date|enrollment date|date enrolled|date enrolment|date enrollment|enrolment start|registered|registered on|registration date|date registered|joined course|course start|' +
      'eingeschrieben|eingeschrieben am|einschreibedatum|einschreibung|anmeldedatum|inscrit|inscrit le|date inscription|inscription|fecha matricula|fecha inscripcion|matriculado|data iscrizione|iscritto il|inschrijfdatum|ingeschreven op|data inscricao|data matricula|data zapisu|zapisany',
  ],
  [
    'submitted_at',
    'submitted|submitted on|submitted at|submission date|submission time|date taken|taken on|date submitted|time submitted|handed in|handed in on|date handed in|turned in|delivered|' +
      'abgegeben|abgegeben am|abgabedatum|eingereicht|eingereicht am|rendu|rendu le|date rendu|remis le|date remise|entregado|entregado el|fecha entrega|consegnato|consegnato il|data consegna|ingeleverd|ingeleverd op|inleverdatum|entregue|data entrega|oddano|data oddania',
  ],
  [
    'role',
    'role|roles|course role|user role|rolle|rollen|kursrolle|role dans cours|rol|roles curso|ruolo|ruoli|papel|papeis|rola|roll|type person|type participant',
  ],
  [
    'address',
    'address|ip|ip address|network address|ip adresse|adresse ip|direccion ip|indirizzo ip|ip adres|endereco ip|adres ip',
  ],
  ['event_id', 'event id|log id|entry id|record id|row id|transaction id'],
  ['session', 'session|session id|meeting id|meeting|session name|meeting name|meeting title'],
  [
    'minutes',
    'minutes|time spent|total time spent|time platform|time online|time course|time task|total minutes|hours|hours spent|total hours|learning time|' +
      'minuten|zeit plattform|lernzeit|verbrachte zeit|onlinezeit|temps passe|temps passe plateforme|temps total|minutos|tiempo dedicado|tiempo total|horas|minuti|tempo trascorso|tempo dedicato|bestede tijd|tijd besteed|tempo gasto|tempo total|czas spedzony|minuty',
  ],
];

/** What lists say of people beside their work: no column of these is an item's, whatever stands under it. */
const BESIDES = new Set(
  (
    'institution|department|school|faculty|organisation|organization|company|employer|site|campus|location|city|town|country|county|postcode|zip|street|phone|telephone|phone number|mobile|fax|' +
    'gender|sex|title person|date birth|birthday|born|age|nationality|language|time zone|timezone|year|year study|level|picture|photo|profile|description|biography|interests|web page|tags|labels|' +
    'notes|note teacher|comment|comments|feedback|remarks|remark|reason|absences|guest|waiting room|device|browser|platform|source|origin|last downloaded|last download|last downloaded course|line|row|' +
    'institut|einrichtung|abteilung|fakultat|hochschule|firma|arbeitgeber|ort|stadt|land|strasse|plz|telefon|telefonnummer|handy|geschlecht|geburtsdatum|sprache|zeitzone|bemerkung|bemerkungen|kommentar|anmerkung|feedback als kommentar|zuletzt heruntergeladen|' +
    'institution|departement|faculte|entreprise|employeur|ville|pays|adresse|telephone|sexe|date naissance|langue|fuseau horaire|remarque|remarques|commentaire|commentaires|dernier telechargement|dernier telechargement cours|' +
    'institucion|departamento|facultad|empresa|ciudad|pais|direccion|telefono|movil|sexo|fecha nacimiento|idioma|zona horaria|observaciones|comentario|comentarios|ultima descarga|ultima descarga este curso|ultima descarga curso|' +
    'istituzione|dipartimento|facolta|azienda|citta|paese|indirizzo|telefono|sesso|data nascita|lingua|fuso orario|osservazioni|commento|commenti|ultimo download|ultimo scaricamento|' +
    'instelling|afdeling|bedrijf|werkgever|plaats|stad|telefoon|geslacht|geboortedatum|taal|opmerking|opmerkingen|laatst gedownload|' +
    'instituicao|empresa|cidade|morada|telefone|telemovel|observacoes|ultimo download|instytucja|dzial|firma|miasto|kraj|telefon|jezyk|uwagi|komentarz'
  ).split('|'),
);

/**
 * Does a heading name something about people beside their work: where they live, what was noted, an identifier of any kind?
 *
 * @param plain as the table has it
 */
export function isBesides(plain: string): boolean {
  const short = withoutSmallWords(plain);
  const own = short.split(' ').filter((word) => !PEOPLE.has(word));
  if (BESIDES.has(plain) || BESIDES.has(short) || BESIDES.has(own.join(' '))) return true;
  return own.some((word) => word === 'id' || word === 'ids' || word === 'login' || word === 'username');
}

/** What single pieces of work are called: a column of these names work where words stand under it. */
export const WORK_NOUNS = new Set(
  (
    'assignment|quiz|test|task|exercise|exam|essay|project|assessment|work|piece of work|unit|aufgabe|ubung|prufung|klausur|arbeit|devoir|tache|exercice|examen|epreuve|evaluation|travail|tarea|ejercicio|trabajo|' +
    'actividad evaluable|compito|esercizio|esame|prova|opdracht|oefening|toets|tentamen|tarefa|exercicio|teste|trabalho|exame|zadanie|cwiczenie|egzamin|praca|uppgift|opgave|oppgave'
  ).split('|'),
);

const meanings = (written: (words: string) => string): ReadonlyMap<string, ColumnRole> =>
  new Map(
    [...HEADINGS].reverse().flatMap(([role, words]) => words.split('|').map((text) => [written(text), role] as const)),
  );

/** A heading without its small words; one of nothing else as it is. */
export function withoutSmallWords(heading: string): string {
  const telling = heading.split(' ').filter((word) => !SMALL_WORDS.has(word));
  return telling.length > 0 ? telling.join(' ') : heading;
}

/** What a heading means as it stands, and without its small words; of two meanings the first in the table. */
export const MEANINGS = meanings((text) => text);
export const SHORT_MEANINGS = meanings(withoutSmallWords);
