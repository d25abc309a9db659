import Link from 'next/link';
import classes from './message.module.css';

export default function NotFoundPage() {
  return (
    <div className={classes.message}>
      <h1>Nothing was found here</h1>
      <p>The link may be old, or lead to something that is not yours to see.</p>
      <p>
        <Link href="/watch">Go to the Watch</Link>
      </p>
    </div>
  );
}
