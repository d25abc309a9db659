/** What screens read of sessions, each as its namesake in the data layer says. */
import * as breaksData from '@/data/courses/breaks';
import * as attendanceData from '@/data/sessions/attendance';
import * as feedsData from '@/data/sessions/feeds';
import * as sessionsData from '@/data/sessions/sessions';
import { reader } from '../request/reader';

export const breaksBetween = reader(breaksData.breaksBetween);
export const findCountedSessions = reader(sessionsData.findCountedSessions);
export const findSessions = reader(sessionsData.findSessions);
export const listFeeds = reader(feedsData.listFeeds);
export const rollChanges = reader(attendanceData.rollChanges);
