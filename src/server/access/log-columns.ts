/** The columns of the access log, in the order in which its rows' SQL gives them. */
import type { LogRow } from '@/data/access/log/page';
import { isoOrNull } from '../request/values';
import type { Column } from '../request/list';

export const LOG_COLUMNS = {
  time: { title: 'Time', figures: { time: (row) => isoOrNull(row.at) } },
  learner: { title: 'Learner', figures: { learner_id: (row) => row.learner_id, name: (row) => row.name } },
  course: { title: 'Course', figures: { course: (row) => row.course } },
  item: { title: 'Item', figures: { item_id: (row) => row.item_id, item: (row) => row.item } },
  action: { title: 'Action', figures: { action: (row) => row.action } },
  kind: { title: 'Kind', figures: { kind: (row) => row.kind } },
  address: { title: 'Address', figures: { address: (row) => row.address } },
} as const satisfies Record<string, Column<LogRow>>;
