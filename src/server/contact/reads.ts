/** What screens read of contact, each as its namesake in the data layer says. */
import * as contactsData from '@/data/contact/contacts';
import * as followUpsData from '@/data/contact/follow-ups';
import * as messagesData from '@/data/contact/messages';
import * as notesData from '@/data/contact/notes';
import * as repliesData from '@/data/contact/replies';
import * as templatesData from '@/data/contact/templates';
import { reader } from '../request/reader';

export const colleaguesOf = reader(followUpsData.colleaguesOf);
export const contactPulse = reader(contactsData.contactPulse);
export const countUnread = reader(repliesData.countUnread);
export const countDue = reader(followUpsData.countDue);
export const findFollowUp = reader(followUpsData.findFollowUp);
export const findFollowUps = reader(followUpsData.findFollowUps);
export const listLabels = reader(notesData.listLabels);
export const noteAuthors = reader(notesData.noteAuthors);
export const listTemplates = reader(templatesData.listTemplates);
export const outboxCounts = reader(messagesData.outboxCounts);
export const repliesPage = reader(repliesData.repliesPage);
export const teamCourses = reader(templatesData.teamCourses);
export const unmatchedReplies = reader(repliesData.unmatchedReplies);
