import classes from './frame.module.css';

/** The field of the search, which is drawn by two: at first alone, then with what it finds. @param isOpen stands over the bar of a telephone */
export const findField = (isOpen: boolean) => ({
  className: classes.find,
  'data-find': true,
  wrapperProps: { 'data-open': isOpen || undefined },
  size: 'xs' as const,
  'aria-label': 'Find a learner, course or item',
  placeholder: 'Find a learner, course or item  /',
  maxLength: 200,
});
