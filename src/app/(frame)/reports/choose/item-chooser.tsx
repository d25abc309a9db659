'use client';

import { CloseButton, NativeSelect } from '@mantine/core';
import { useGo } from '../../../_list/use-go';
import lists from '../../../_list/list.module.css';
import classes from '../reports.module.css';

interface Props {
  items: readonly { id: string; title: string }[];
  chosen: readonly string[];
  params: Record<string, string | undefined>;
}

/** The items to which rows and columns of items are cut; all of them where none is chosen. */
export function ItemChooser({ items, chosen, params }: Props) {
  const { go } = useGo('/reports/choose', params);
  const choose = (ids: readonly string[]) => go({ items: ids.map(encodeURIComponent).join(',') }, 'replace');
  const titles = new Map(items.map(({ id, title }) => [id, title]));
  return (
    <div className={classes.row}>
      <NativeSelect
        size="xs"
        label="Items"
        value=""
        onChange={(event) => choose([...chosen, event.currentTarget.value])}
        data={[
          { value: '', label: chosen.length === 0 ? 'all of them' : 'add another …' },
          ...items.filter(({ id }) => !chosen.includes(id)).map(({ id, title }) => ({ value: id, label: title })),
        ]}
      />
      {chosen.map((id) => {
        const title = titles.get(id) ?? id;
        return (
          <span key={id} className={lists.sentence}>
            <bdi>{title}</bdi>
            <CloseButton
              size="xs"
              aria-label={`Without ${title}`}
              onClick={() => choose(chosen.filter((one) => one !== id))}
            />
          </span>
        );
      })}
    </div>
  );
}
