import { expect, it } from 'vitest';
import { takeTurn } from './turns';

const later = () => new Promise((resolve) => setTimeout(resolve, 5));

it('two of an account are worked on at a time, the others in their order, and other accounts beside them', async () => {
  const order: string[] = [];
  const take = async (staffId: number, name: string) => {
    const end = await takeTurn(staffId);
    order.push(name);
    return end;
  };
  const [first, second] = await Promise.all([take(1, 'a'), take(1, 'b')]);
  const [third, fourth] = [take(1, 'c'), take(1, 'd')];
  const other = await take(2, 'other');
  await later();
  expect(order).toEqual(['a', 'b', 'other']);
  first();
  // Ending twice lets nobody in twice.
  first();
  await later();
  expect(order).toEqual(['a', 'b', 'other', 'c']);
  second();
  (await third)();
  (await fourth)();
  other();
  expect(order).toEqual(['a', 'b', 'other', 'c', 'd']);
  (await take(1, 'again'))();
});
