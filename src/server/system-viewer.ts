import type { Viewer } from '@/data/scope';

/** Whoever has the data folder: the shell sees everyone. */
export const SYSTEM_VIEWER: Viewer = {
  staffId: 0,
  role: 'lead',
  name: 'Shell',
  all: true,
  organisations: [],
  courses: [],
  groups: [],
  learners: [],
  standInKey: null,
};
