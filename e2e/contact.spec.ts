import type { Page } from '@playwright/test';
import { INBOX_PORT, SMS_PORT } from './ports';
import { expect, expectAccessible, signIn, test } from './help';

const panelOf = (page: Page) => page.getByRole('complementary', { name: 'The learner under the cursor' });

test('a template is made, checked, put in order and used; a text message and a mail arrive', async ({ page }) => {
  test.setTimeout(120_000);
  await signIn(page, 'lead');
  await page.goto('/follow-ups/templates');
  await page.getByRole('button', { name: 'Make a template' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Ten minutes');
  await page.getByLabel('Subject').fill('Ten minutes for {{course}}');
  await page.getByRole('textbox', { name: 'Text' }).fill('Hello {{nick_name}}');
  await page.getByRole('button', { name: 'Save the template' }).click();
  await expect(page.getByText('has a field that does not exist: nick_name').first()).toBeVisible();
  await page.getByRole('textbox', { name: 'Text' }).fill('Hello {{given_name}}, {{my_name}}');
  await page.getByRole('button', { name: 'Save the template' }).click();
  const own = page.getByRole('article', { name: 'Ten minutes' });
  await expect(own).toBeVisible();
  await expect(page.getByRole('article').last()).toContainText('Ten minutes');
  await own.getByRole('button', { name: 'Move Ten minutes up' }).click();
  await expect(page.getByRole('article').last()).not.toContainText('Ten minutes');
  await expectAccessible(page);

  // One prefers text messages, the other mail.
  await page.goto('/learners/L20441');
  await page.getByRole('button', { name: 'Edit the details' }).click();
  await page.getByLabel('Phone').fill('+44 1632 960555');
  await page.getByLabel('Prefers').selectOption('sms');
  await page.getByLabel('Own time zone').fill('Moon/Sea');
  await page.getByRole('button', { name: 'Save the details' }).click();
  await expect(page.getByText('is not a time zone')).toBeVisible();
  await page.getByLabel('Own time zone').fill('');
  await page.getByRole('button', { name: 'Save the details' }).click();
  await expect(page.getByRole('link', { name: '+44 1632 960555' }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Write', exact: true }).click();
  await page.getByLabel('Template').selectOption({ label: 'Ten minutes' });
  await expect(page.getByLabel('Subject')).toHaveValue('Ten minutes for {{course}}');
  await expect(page.getByRole('region', { name: 'Preview' })).toContainText('text message');
  await page.getByLabel('Follow up on').fill('2026-11-23');
  const all = page.getByRole('checkbox', { name: /all the same/ });
  if (await all.isVisible()) await all.check();
  await page.getByRole('button', { name: 'Send 1 message' }).click();
  await expect(page.getByText('“Follow up on” lies before today.')).toBeVisible();
  await page.getByLabel('Follow up on').fill('2026-11-28');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Send 1 message' }).click();
  await expect(page.getByText('1 message on the way')).toBeVisible();
  const texts = async () =>
    (await (await page.request.get(`http://127.0.0.1:${SMS_PORT}/messages.json`)).json()) as {
      to: string;
      text: string;
    }[];
  await expect
    .poll(async () => (await texts()).filter((one) => one.to === '+441632960555').length, { timeout: 30_000 })
    .toBe(1);
  expect((await texts()).find((one) => one.to === '+441632960555')!.text).toMatch(/^Hello .+, Hesper Vane$/);
  await page.goto('/learners/L20441');
  await expect(page.getByText(/You texted today/).first()).toBeVisible();
  await expect(page.getByText('Follow-up for Sat 28 Nov')).toBeVisible();
});

test('a learner answers by mail, the answer stands in the conversation, and a bounce is marked as one', async ({
  page,
}) => {
  test.setTimeout(120_000);
  await signIn(page, 'lead');
  const mailTo = async (learner: string, subject: string) => {
    await page.goto(`/learners/${learner}`);
    await page.getByRole('button', { name: 'Write', exact: true }).click();
    await page.getByText('e-mail', { exact: true }).first().click();
    await page.getByLabel('Subject').fill(subject);
    await page.getByRole('textbox', { name: 'Text' }).fill('Hello {{given_name}}');
    const all = page.getByRole('checkbox', { name: /all the same/ });
    if (await all.isVisible()) await all.check();
    await page.getByRole('button', { name: 'Send 1 message' }).click();
    await expect(page.getByText('1 message on the way')).toBeVisible();
    const inbox = `http://127.0.0.1:${INBOX_PORT}/?q=${encodeURIComponent(subject)}`;
    await expect
      .poll(async () => (await page.request.get(inbox)).text(), { timeout: 30_000 })
      .toContain(`>${subject}</a>`);
    await page.goto(inbox);
    await page.getByRole('link', { name: subject }).click();
  };
  await mailTo('L20573', 'Shall we talk?');
  await page.getByLabel('Text').fill('Yes, on Thursday after six.');
  await page.getByRole('button', { name: 'Send the answer' }).click();
  await expect(page.getByRole('status')).toContainText('matched to the learner');
  await page.goto('/learners/L20573/conversation');
  const conversation = page.getByRole('list', { name: 'Conversation' });
  await expect(conversation.getByRole('listitem').last()).toContainText('Yes, on Thursday after six.');
  await expect(conversation).not.toContainText('> Hello');
  await expect(conversation).toContainText('answered');
  await expectAccessible(page);
  await page.goto('/follow-ups/answers');
  await expect(page.getByRole('article').first()).toContainText('Yes, on Thursday after six.');

  await mailTo('L20420', 'A stray one');
  await page.getByLabel('Text').fill('Which course is this about?');
  await page.getByLabel(/from another address/).check();
  await page.getByRole('button', { name: 'Send the answer' }).click();
  await expect(page.getByRole('status')).toContainText('matches nobody');
  await page.getByRole('button', { name: 'Report that the mailbox is unknown' }).click();
  await expect(page.getByRole('status')).toContainText('matched to the learner');

  await page.goto('/follow-ups/answers');
  const unmatched = page.getByRole('region', { name: 'Answers that match nobody' });
  await expect(unmatched).toContainText('Which course is this about?');
  await unmatched.getByLabel('It is by the learner with the id').fill('NOBODY');
  await unmatched.getByRole('button', { name: 'It is theirs' }).click();
  await expect(unmatched).toContainText('No learner with the id NOBODY');
  await expectAccessible(page);
  await unmatched.getByLabel('It is by the learner with the id').fill('L20420');
  await unmatched.getByRole('button', { name: 'It is theirs' }).click();
  await expect(unmatched).toHaveCount(0);
  await page.goto('/follow-ups/messages?state=bounced');
  await expect(page.getByRole('row').filter({ hasText: 'A stray one' })).toContainText('550 5.1.1 no such mailbox');
});

test('a call by three keys, seen by a colleague at once, undone with u', async ({ page, browser }) => {
  await signIn(page, 'instructor');
  await page.goto('/watch?in=course:SBE');
  const panel = panelOf(page);
  const name = (await panel.getByRole('heading').first().textContent())!;
  const context = await browser.newContext();
  const colleague = await context.newPage();
  await signIn(colleague, 'lead');
  const theirId = (await panel.getByText(/^L\d+$/).textContent())!;
  await colleague.goto(`/learners/${theirId}`);

  await page.keyboard.press('l');
  await expect(page.getByRole('dialog')).toContainText(`Call to ${name}`);
  await expectAccessible(page);
  await page.keyboard.press('3');
  await page.keyboard.press('Enter');
  await expect(page.getByText(`Call to ${name}: no answer`)).toBeVisible();
  // One waits for what it brings: the next takes their place.
  await expect(panel).not.toContainText(theirId);
  // Without anybody reloading, the colleague's page has it.
  await expect(colleague.getByText('Jory Kestle called today · no answer').first()).toBeVisible({ timeout: 20_000 });
  await context.close();

  await page.keyboard.press('u');
  await expect(page.getByText('Call taken back')).toBeVisible();
  await expect(page.getByRole('listitem').filter({ hasText: name }).first()).toBeVisible();
});

test('notes with labels, for staff and for oneself, are found again', async ({ page }) => {
  await signIn(page, 'mentor');
  await page.goto('/learners/L20447');
  await page.keyboard.press('n');
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Note', { exact: true }).fill('Prefers the harbour library on Wednesdays');
  await dialog.getByText('agreed', { exact: true }).click();
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Save the note' }).click();
  await expect(page.locator('#story')).toContainText('Prefers the harbour library on Wednesdays');
  await page.goto('/follow-ups/notes');
  await page.getByLabel('Find in notes').fill('harbour lib');
  await expect(page).toHaveURL(/q=harbour/);
  await expect(page.getByRole('article')).toHaveCount(1);
  await page.getByRole('link', { name: 'agreed' }).click();
  await expect(page.getByRole('article')).toContainText('agreed');
  await page.getByRole('button', { name: 'Remove' }).click();
  await expect(page.getByRole('article')).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('article')).toHaveCount(1);

  // A lead edits the set of labels.
  await page.getByRole('button', { name: 'Sign out' }).click();
  await signIn(page, 'lead');
  await page.goto('/follow-ups/notes');
  const labels = page.getByRole('region', { name: 'Labels' });
  await labels.getByLabel('A new label').fill('harvest');
  await labels.getByRole('button', { name: 'Add' }).click();
  await expect(labels.getByLabel('Name of the label harvest')).toBeVisible();
  await labels.getByLabel('A new label').fill('HARVEST');
  await labels.getByRole('button', { name: 'Add' }).click();
  await expect(labels).toContainText('is a label already');
});

test('follow-ups: what is due, closed with one key, handed over', async ({ page }) => {
  await signIn(page, 'mentor');
  await page
    .getByRole('navigation', { name: 'Main' })
    .getByRole('link', { name: /Follow-ups/ })
    .click();
  const list = page.getByRole('list', { name: 'Follow-ups' });
  await expectAccessible(page);
  for (const state of ['came back', 'overdue', 'due today']) {
    await page.getByRole('navigation', { name: 'States' }).getByRole('link', { name: state }).click();
    await expect(list.getByRole('listitem').first()).toContainText(state);
    await page.getByRole('navigation', { name: 'States' }).getByRole('link', { name: state }).click();
  }
  await page.goto('/follow-ups?state=due_today');
  const name = (await list.getByRole('listitem').first().locator('strong').first().textContent())!;
  const before = await list.getByRole('listitem').count();
  await expect(panelOf(page)).toContainText('Then:');
  // The panel's button promises something new; the letter is about what was promised.
  await panelOf(page).getByRole('button', { name: 'Follow up…' }).click();
  await expect(page.getByRole('dialog', { name: `Follow up ${name}` })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('f');
  await expect(page.getByRole('dialog')).toContainText(`What came of it: ${name}`);
  await expectAccessible(page);
  await page.keyboard.press('2');
  await expect(page.getByText(`${name}: Agreed on a next step`)).toBeVisible();
  await expect(list.getByRole('listitem')).toHaveCount(before - 1);
  await page.keyboard.press('u');
  await expect(list.getByRole('listitem')).toHaveCount(before);

  await list.getByRole('listitem').first().getByRole('button', { name: 'Another day' }).click();
  await page.getByLabel('Follow up on').fill('2026-11-20');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByText('“Follow up on” lies before today.')).toBeVisible();
  await page.keyboard.press('Escape');
  await list.getByRole('listitem').first().getByRole('button', { name: 'Hand over' }).click();
  await page.getByRole('menuitem', { name: /Hesper Vane/ }).click();
  await expect(page.getByText('Handed over to Hesper Vane')).toBeVisible();
  await expect(list.getByRole('listitem')).toHaveCount(before - 1);
  await page.getByRole('link', { name: 'everybody’s' }).click();
  await expect(list.getByRole('listitem').filter({ hasText: 'Hesper Vane' })).not.toHaveCount(0);
});
