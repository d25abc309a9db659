import { describe, expect, it } from 'vitest';
import { packRows, unpackRows } from './rows';

describe('packed rows', () => {
  it('say their keys once and come back as they were', () => {
    const rows = [
      { id: 1, name: 'Ines', cells: ['a', null] },
      { id: 2, name: null, cells: [] },
    ];
    const packed = packRows(rows);
    expect(packed.keys).toEqual(['id', 'name', 'cells']);
    expect(JSON.stringify(packed).match(/name/g)).toHaveLength(1);
    expect(unpackRows(packed)).toEqual(rows);
  });

  it('may be none', () => {
    expect(unpackRows(packRows([]))).toEqual([]);
  });
});
