/** Workbooks and spreadsheets read from their parts, in pieces of any size. */
import { describe, expect, it } from 'vitest';
import { flatten, listIn } from './json';
import { OdsReader } from './ods';
import { SharedStrings, SheetReader, readRelations, readStyles, readWorkbook } from './xlsx';

const inPieces = <T>(text: string, size: number, push: (piece: string) => T[]): T[] => {
  const all: T[] = [];
  for (let at = 0; at < text.length; at += size) all.push(...push(text.slice(at, at + size)));
  return all;
};

const SHEET = `<?xml version="1.0"?><worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>
<row r="1"><c r="A1" t="s"><v>0</v></c><c r="C1" t="inlineStr"><is><t>Last &amp; access</t></is></c></row>
<row r="3"><c r="A3" t="str"><f>A1</f><v>worked out</v></c><c r="B3" s="1"><v>46293.5</v></c><c r="C3"><v>17.300000000000001</v></c></row>
<row r="4" hidden="1"><c r="A4" t="inlineStr"><is><t>hidden</t></is></c></row>
<row r="5"><c r="A5" t="e"><v>#REF!</v></c><c r="B5" t="b"><v>1</v></c><c r="C5"><f>1+1</f></c><c r="ZZ5"><v>9</v></c></row>
</sheetData></worksheet>`;

describe('a workbook', () => {
  it.each([1, 7, 100_000])('gives its rows on their lines, read %s letters at a time', (size) => {
    const reader = new SheetReader(['Name'], ['number', 'date'], false, 10);
    expect(inPieces(SHEET, size, (piece) => reader.push(piece))).toEqual([
      { number: 1, cells: ['Name', '', 'Last & access'] },
      { number: 3, cells: ['worked out', '2026-09-28T12:00:00', '17.3'] },
      { number: 5, cells: ['', 'yes'] },
    ]);
    expect(reader.hidden).toBe(1);
  });

  it('names its sheets, its relations, its styles and its texts', () => {
    const workbook = `<workbook xmlns:r="x"><workbookPr date1904="1"/><sheets><sheet name="A" r:id="r1"/><sheet name="B" state="hidden" r:id="r2"/></sheets></workbook>`;
    expect(readWorkbook(workbook)).toEqual({
      is1904: true,
      sheets: [
        { name: 'A', relation: 'r1', isHidden: false },
        { name: 'B', relation: 'r2', isHidden: true },
      ],
    });
    expect(readRelations('<R><Relationship Id="r1" Target="worksheets/sheet1.xml"/></R>').get('r1')).toBe(
      'worksheets/sheet1.xml',
    );
    const styles = `<s><numFmts><numFmt numFmtId="164" formatCode="dd.mm.yyyy"/></numFmts><cellStyleXfs><xf numFmtId="14"/></cellStyleXfs><cellXfs><xf numFmtId="0"/><xf numFmtId="164"/></cellXfs></s>`;
    expect(readStyles(styles)).toEqual(['number', 'date']);
    const strings = new SharedStrings();
    strings.write('<sst><si><t>Inès</t></si><si><r><t>two </t></r><r><t>runs</t></r><rPh><t>said</t></rPh></si></sst>');
    expect(strings.texts).toEqual(['Inès', 'two runs']);
  });

  it('does not expand what a part declares', () => {
    const bomb = `<!DOCTYPE lolz [<!ENTITY a "lol"><!ENTITY b "&a;&a;&a;">]><worksheet><sheetData><row r="1"><c t="inlineStr"><is><t>&b;</t></is></c></row></sheetData></worksheet>`;
    expect(() => new SheetReader([], [], false, 10).push(bomb)).toThrow();
  });
});

describe('an OpenDocument spreadsheet', () => {
  it('gives values as they are typed, repeated ones as often, hidden ones not at all', () => {
    const content = `<office:document-content xmlns:office="o" xmlns:table="t" xmlns:text="x" xmlns:style="s">
<style:style style:name="ta2"><style:table-properties table:display="false"/></style:style>
<table:table table:name="One"><table:table-row table:number-rows-repeated="2"><table:table-cell/></table:table-row>
<table:table-row><table:table-cell office:value-type="string"><text:p>Ines</text:p></table:table-cell><table:table-cell office:value-type="percentage" office:value="0.85"><text:p>85%</text:p></table:table-cell><table:table-cell office:value-type="date" office:date-value="2026-11-12T00:00:00"><text:p>12/11/26</text:p></table:table-cell><table:table-cell office:value-type="time" office:time-value="PT01H05M00S"/><table:table-cell table:number-columns-repeated="16000"/></table:table-row>
<table:table-row table:visibility="collapse"><table:table-cell><text:p>hidden</text:p></table:table-cell></table:table-row>
<table:table-row table:number-rows-repeated="1000000"><table:table-cell table:number-columns-repeated="16384"/></table:table-row></table:table>
<table:table table:name="Two" table:style-name="ta2"><table:table-row><table:table-cell><text:p>unseen</text:p></table:table-cell></table:table-row></table:table>
</office:document-content>`;
    const reader = new OdsReader(100);
    expect(inPieces(content, 50, (piece) => reader.push(piece))).toEqual([
      { sheet: 'One', number: 3, cells: ['Ines', '85 %', '2026-11-12', '01:05:00'] },
    ]);
    expect([reader.hidden, reader.hiddenSheets]).toEqual([1, ['Two']]);
  });
});

describe('JSON', () => {
  it('is a list of objects, itself or under a name', () => {
    expect(listIn([{ a: 1 }])).toHaveLength(1);
    expect(listIn({ total: 1, data: [{ a: 1 }] })).toHaveLength(1);
    expect(listIn({ total: 1 })).toBeNull();
    expect(listIn([1, 2])).toBeNull();
    expect([...flatten({ actor: { name: 'Ines', tags: [1] }, at: null })]).toEqual([
      ['actor name', 'Ines'],
      ['actor tags', '[1]'],
      ['at', ''],
    ]);
  });
});
