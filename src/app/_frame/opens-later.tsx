'use client';

import { notifications } from '@mantine/notifications';
import {
  cloneElement,
  useLayoutEffect,
  useRef,
  useState,
  type ComponentType,
  type ReactElement,
  type RefAttributes,
} from 'react';

/** The button that opens something: what is loaded draws it again, as its own. */
export type Target = ReactElement<
  RefAttributes<HTMLButtonElement> & {
    onClick?: () => void;
    onPointerEnter?: () => void;
    onFocus?: () => void;
    'aria-haspopup'?: 'dialog' | 'menu';
    'aria-expanded'?: boolean;
  }
>;

/**
 * A menu or a form behind a button, whose code comes when the button is first pressed, or before that, when the pointer or
 * the focus comes near: a page is read sooner without it.
 *
 * @param load the part; it gets the button as `target`, and opens at once
 *
 * @example
 * const FilterMenu = opensLater(() => import('./filter-menu').then((module) => module.FilterMenu));
 * <FilterMenu target={<Button>Add a filter</Button>} params={params} />
 */
export function opensLater<P extends { target: Target }>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
  return function Later(props: P) {
    const [Loaded, setLoaded] = useState<ComponentType<P> | null>(null);
    const near = () => void load().catch(() => undefined);
    const open = () =>
      void load().then(
        (part) => setLoaded(() => part),
        () =>
          notifications.show({
            title: 'It could not be opened',
            message: 'There is no connection to Lee Shore now. Try again in a moment.',
            color: 'red',
          }),
      );
    if (Loaded) return <Loaded {...props} />;
    return cloneElement(props.target, {
      onClick: open,
      onPointerEnter: near,
      onFocus: near,
      'aria-haspopup': 'dialog',
      'aria-expanded': false,
    });
  };
}

/** For what is loaded: it opens as soon as it is there, and leaves the focus on its button when it closes. */
export function useOpening(target: Target) {
  const button = useRef<HTMLButtonElement>(null);
  const [opened, setOpened] = useState(false);
  useLayoutEffect(() => {
    button.current?.focus();
    setOpened(true);
  }, []);
  return {
    opened,
    setOpened,
    target: cloneElement(target, { ref: button, onClick: () => setOpened((known) => !known) }),
  };
}
