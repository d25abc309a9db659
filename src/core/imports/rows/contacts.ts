import { Optional } from '../column';
import { MAIL } from '../validators';
import { EMAIL, LEARNER, NeededId, NeededText, NeededWord, OptionalText, OptionalWord } from './shared';

/** Who somebody is to a learner. */
const RELATIONS = ['family', 'employer', 'other'] as const;

/** One person around a learner. */
export class ContactRow {
  @NeededId(LEARNER) learner_id!: string;
  @NeededText({ says: 'the contact’s name', synonyms: ['contact', 'contact_name', 'full_name'] }) name!: string;
  @NeededWord({ says: RELATIONS.join(', '), synonyms: ['relationship', 'type'] }, RELATIONS) relation!: string;
  @Optional(EMAIL, MAIL) email?: string;
  @OptionalText({ says: 'telephone number', synonyms: ['telephone', 'mobile', 'phone_number'] }, 60) phone?: string;

  @OptionalWord({ says: 'yes where reports may be sent to them', synonyms: ['may_receive_reports', 'consent'] }, [
    'yes',
    'no',
  ])
  may_receive?: string;
}
