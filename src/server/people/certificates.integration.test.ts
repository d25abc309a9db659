import { buffer } from 'node:stream/consumers';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Viewer } from '@/data/scope';
import { recalculate } from '../drift/recalculate';
import { saveCourseSetting } from '../courses/course-settings';
import { InvalidInput, NotFound } from '../request/input';
import { bringIn, logOf, smallRuntime, viewerByEmail, type TestRuntime } from '../testing';
import {
  certificatePdf,
  certificatesShown,
  checkCertificate,
  giveCertificate,
  revokeCertificate,
} from './certificates';

let runtime: TestRuntime;
let lead: Viewer;
let mentor: Viewer;
beforeEach(async () => {
  // Ines has done all of Net Work; of Drystone half.
  runtime = await smallRuntime(['2026-11-20T10:10:00Z,L1,NET,N1,opened', '2026-11-20T10:00:00Z,L1,DRY,D1,opened']);
  await recalculate(runtime);
  lead = await viewerByEmail(runtime, 'lead@staff.example');
  mentor = await viewerByEmail(runtime, 'mentor@staff.example');
});
afterEach(() => runtime.close());

const give = (viewer = lead, course = 'NET') => giveCertificate(runtime, viewer, 'L1', course);

describe('a certificate', () => {
  it('is given once the course is completed, and once', async () => {
    expect(await certificatesShown(runtime, lead, 'L1', 'NET')).toEqual({ mayGive: true, given: [] });
    expect(await certificatesShown(runtime, lead, 'L1', 'DRY')).toEqual({ mayGive: false, given: [] });
    await expect(give(lead, 'DRY')).rejects.toThrow(InvalidInput);
    const both = await Promise.all([give(), give()]);
    expect(new Set([...both, await give()]).size).toBe(1);
    expect(both[0]).toMatch(/^[2-9A-Z]{4}-[2-9A-Z]{4}-[2-9A-Z]{4}$/);
    expect(await certificatesShown(runtime, lead, 'L1', 'NET')).toMatchObject({
      mayGive: false,
      given: [{ number: both[0], revokedAt: null, isTakenBack: false }],
    });
  });

  it('says in public whether its number was given, for which course and when, and nothing of whom', async () => {
    const number = await give();
    const said = await checkCertificate(runtime, ` ${number.toLowerCase().replaceAll('-', ' ')} `);
    expect(said).toEqual({ number, course: 'Net Work', on: '24 November 2026' });
    for (const other of ['2222-2222-2222', number.slice(0, -1), '', '%', 'x'.repeat(100_000)])
      await expect(checkCertificate(runtime, other)).rejects.toThrow(NotFound);
  });

  it('stays as it was given, whatever comes after, and is good no more once it is taken back', async () => {
    await saveCourseSetting(runtime, lead, 'NET', 'certificate', { certificate: 'knows {{course}} since {{day}}' });
    const number = await give();
    await runtime.db('learner').where('external_id', 'L1').update({ family_name: 'Other' });
    await runtime.db('course').where('code', 'NET').update({ title: 'Renamed' });
    expect(await runtime.db('certificate').first('name', 'text', 'course_title', 'completed_day')).toMatchObject({
      name: 'Ines Marrow',
      text: 'knows Net Work since 20 November 2026',
      course_title: 'Net Work',
    });
    // The completion is taken back: it says so, and somebody decides.
    await bringIn(
      runtime,
      'outline',
      'course,course_title,unit,item_id,item,kind,required\nNET,Net Work,Week 2,N2,More,page,yes\n',
    );
    await recalculate(runtime);
    expect(await certificatesShown(runtime, lead, 'L1', 'NET')).toMatchObject({
      mayGive: false,
      given: [{ isTakenBack: true }],
    });
    expect((await checkCertificate(runtime, number)).number).toBe(number);
    await revokeCertificate(runtime, lead, number);
    await expect(checkCertificate(runtime, number)).rejects.toThrow(NotFound);
    await expect(revokeCertificate(runtime, lead, number)).rejects.toThrow(NotFound);
    await expect(certificatePdf(runtime, lead, number)).rejects.toThrow(NotFound);
    // Completed again, another number is given.
    await bringIn(runtime, 'access-log', logOf(['2026-11-21T10:00:00Z,L1,NET,N2,opened']));
    await recalculate(runtime);
    expect(await give()).not.toBe(number);
  });

  it('is a PDF of one page with the name in whatever script', async () => {
    await runtime
      .db('learner')
      .where('external_id', 'L1')
      .update({ given_name: 'إيناس', family_name: '<b>Ło'.repeat(20) });
    const pdf = await buffer(await certificatePdf(runtime, lead, await give()));
    expect(pdf.subarray(0, 5).toString()).toBe('%PDF-');
    expect(pdf.toString('latin1').match(/\/Type \/Page\b/g)).toHaveLength(1);
  });

  it('is given, seen and taken back by staff who see the learner in that course alone', async () => {
    const number = await give();
    // The mentor's group is of the other course.
    await expect(give(mentor)).rejects.toThrow(NotFound);
    await expect(certificatePdf(runtime, mentor, number)).rejects.toThrow(NotFound);
    await expect(revokeCertificate(runtime, mentor, number)).rejects.toThrow(NotFound);
    // A partner's contact of hers reads it.
    const partner = await viewerByEmail(runtime, 'norrick@partner.example');
    expect(await certificatesShown(runtime, partner, 'L1', 'NET')).toMatchObject({
      mayGive: false,
      given: [{ number }],
    });
    await expect(give(partner)).rejects.toThrow(NotFound);
    await expect(revokeCertificate(runtime, partner, number)).rejects.toThrow(NotFound);
    const hidden = { ...lead, standInKey: 'a key' };
    await expect(certificatePdf(runtime, hidden, number)).rejects.toThrow(NotFound);
  });
});
