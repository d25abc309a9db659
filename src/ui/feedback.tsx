import { Fragment } from 'react';
import { feedbackParts } from '@/core/grades/feedback';

/** Feedback as text: its paragraphs and links, and nothing of its markup. */
export function Feedback({ text }: { text: string }) {
  return feedbackParts(text).map((parts, index) => (
    <p key={index} style={{ margin: '2px 0', whiteSpace: 'pre-wrap', overflowWrap: 'anywhere' }} dir="auto">
      {parts.map((part, place) =>
        part.href === undefined ? (
          <Fragment key={place}>{part.text}</Fragment>
        ) : (
          <a key={place} href={part.href} target="_blank" rel="noreferrer noopener">
            {part.text}
          </a>
        ),
      )}
    </p>
  ));
}
