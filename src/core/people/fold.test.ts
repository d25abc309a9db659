import { expect, it } from 'vitest';
import { foldText } from './fold';

it('a text is folded to what any keyboard has', () => {
  expect(['Zoë', 'NÚRIA RYAN', 'Siân Łaski', 'Bjørn Þór', 'Straße', 'İpek', 'Ærø'].map(foldText)).toEqual([
    'zoe',
    'nuria ryan',
    'sian laski',
    'bjorn thor',
    'strasse',
    'ipek',
    'aero',
  ]);
  expect(foldText('Ελένη')).toBe('ελενη');
});
