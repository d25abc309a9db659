import { expect, it } from 'vitest';
import { labelOf, sayFaults } from './field-labels';

it('what is wrong is said with the field’s label, a sentence each', () => {
  expect(labelOf('learner_id')).toBe('Learner’s id');
  expect(
    sayFaults([
      { field: 'follow_up_on', message: 'lies before today' },
      { field: 'email', message: 'is missing' },
    ]),
  ).toBe('“Follow up on” lies before today. “E-mail” is missing.');
});
