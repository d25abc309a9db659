import classes from './row-check.module.css';

interface Props {
  checked: boolean;
  label: string;
  onChange: () => void;
}

/** A box to select a row by: the browser's own, since a list has a hundred of them. */
export function RowCheck({ checked, label, onChange }: Props) {
  return (
    <label className={classes.target}>
      <input type="checkbox" className={classes.box} checked={checked} onChange={onChange} aria-label={label} />
    </label>
  );
}
