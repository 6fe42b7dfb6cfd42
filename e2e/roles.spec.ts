/** The day in four roles: each finds its own work, no act that is another's, and no link that leads nowhere. */
import { ROLES, type Permission, may } from '../src/server/access';
import { type Everything, someOfEverything } from '../src/testing/everything';
import { expect, listening, sessionOf, test, anyOf, lastOf } from './desk';

/** What can be pressed, where, and the permission it needs. */
const actsOf = (
  made: Everything,
): readonly (readonly [path: string, name: RegExp, permission: Permission])[] => [
  ['/accounts', /^New household/, 'register people'],
  [`/accounts/${made.paid.householdId}`, /^Take payment/, 'take payments'],
  [`/accounts/${made.paid.householdId}`, /^Statement \(S\)$/, 'send statements'],
  [`/accounts/${made.paid.householdId}`, /^Add member$/, 'register people'],
  [`/accounts/${made.paid.householdId}`, /^add coverage$/, 'register people'],
  [`/accounts/${made.paid.householdId}`, /^Add$/, 'enter charges'],
  ['/claims?view=all', /^Send \d+ ready/, 'work claims'],
  ['/claims?view=all', /^Check again$/, 'work claims'],
  ['/claims/unbilled', /^Build claims/, 'work claims'],
  ['/claims?view=all', /^Check only \(C\)$/, 'work claims'],
  [`/claims/checks/${made.checkId}`, /^Check once more \(R\)$/, 'work claims'],
  [`/claims/${made.correctionId}`, /^Who did it, and where$/, 'work claims'],
  ['/remittances?view=ready', /^Post \d+ claims/, 'post remittances'],
  ['/remittances?view=all', /^Bring in a file$/, 'post remittances'],
  [`/remittances/${made.remittanceId}`, /^Reverse all$/, 'reverse entries'],
  ['/remittances/follow-ups', /^Go on$/, 'work follow-ups'],
  ['/remittances/follow-ups', /^Write off$/, 'reverse entries'],
  [`/remittances/contract?payer=${made.paid.claim.payer_id}`, /^Letter about \d+ lines?$/, 'work follow-ups'],
  ['/remittances/credit', /^Settle$/, 'post remittances'],
  [`/claims/${made.denied.claim.id}`, /^Correct and send again \(C\)$/, 'work claims'],
  ['/payments', /^Credit not applied$/, 'take payments'],
  ['/statements?view=due', /^Make statement$/, 'send statements'],
  ['/statements', /^Prepare \d+ draft/, 'prepare statements'],
  [`/accounts/${made.paid.householdId}`, /^Paper ▾$/, 'send statements'],
  ['/overdue?view=letters', /^Prepare \d+ letters?$/, 'work overdue'],
  ['/overdue?view=calls', /^Contact$/, 'work overdue'],
  ['/overdue/letters', /^Write a letter$/, 'change setup'],
  ['/overdue/small', /^Write off \d+ balances/, 'write off small balances'],
  [`/overdue/placements/${made.proposed.placementId}`, /^Approve, hand over/, 'approve placements'],
  [`/overdue/placements/${made.proposed.placementId}`, /^Withdraw$/, 'work overdue'],
  [`/overdue/placements/${made.placed.placementId}`, /^Book a payment of theirs \(B\)$/, 'post agency money'],
  ['/setup/plans', /^Add insurance plan$/, 'change setup'],
  ['/setup/plans', /^Change$/, 'change setup'],
  ['/setup/users', /^Invite somebody$/, 'manage users'],
  [`/accounts/${made.paid.householdId}`, /^Who saw it \(W\)$/, 'read the audit trail'],
  ['/you', /^Change the password$/, 'keep their own sign-in'],
];
/** Who may look at a station at all. */
const STATIONS: readonly [path: string, permission: Permission][] = [
  ['/claims', 'read claims'],
  ['/remittances', 'read remittances'],
  ['/setup', 'read setup'],
  ['/books', 'read books'],
  ['/work', 'watch work'],
  ['/setup/users', 'manage users'],
  ['/setup/audit', 'read the audit trail'],
];

/** Where the links of a page lead that the server has drawn: our own pages and files. */
const linksOf = (html: string): string[] =>
  [...html.matchAll(/<a\b[^>]*?\shref="([/?][^"]*)"/g)].map(([, href]) => href!.replaceAll('&amp;', '&'));

for (const role of ROLES)
  test(`${role}: its acts and no others, and every link leads somewhere`, async ({ page, desk }) => {
    test.setTimeout(600_000);
    const made = await someOfEverything(desk, 1);
    const account = `/accounts/${made.paid.householdId}`;
    const LOOKS: readonly [path: string, permission: Permission][] = [
      ...STATIONS,
      [`${account}/seen`, 'read the audit trail'],
    ];
    await sessionOf(page, role);
    const looksAt = (path: string): boolean =>
      LOOKS.every(([start, permission]) => !path.startsWith(start) || may(role, permission));
    for (const [start, permission] of LOOKS) {
      const answer = await page.goto(start);
      expect([start, answer!.status()]).toEqual([start, may(role, permission) ? 200 : 403]);
      const heading = page.getByRole('heading', { level: 1, name: 'Not open to you' });
      await expect(heading).toHaveCount(may(role, permission) ? 0 : 1);
    }
    let at = '';
    for (const [path, name, permission] of actsOf(made)) {
      if (!looksAt(path)) continue;
      if (at !== path) await page.goto(path);
      at = path;
      await listening(page);
      const act = page
        .getByRole('main')
        .getByRole('button', { name })
        .or(page.getByRole('main').getByRole('link', { name }));
      if (may(role, permission)) await expect(anyOf(act), `${path} ${name}`).toBeVisible();
      else await expect(act, `${path} ${name}`).toHaveCount(0);
    }

    // One link of each kind, from page to page, as the server draws them.
    const kind = (href: string): string => href.replace(/\d+/g, '#').replace(/=[^&#]+/g, '=');
    const seen = new Set<string>();
    const waiting = ['/', '/accounts', account, '/payments', '/statements?view=due'];
    const dead: string[] = [];
    for (let path = waiting.shift(); path; path = waiting.shift()) {
      if (seen.has(kind(path))) continue;
      seen.add(kind(path));
      // A connection that the server closed just then is made anew.
      const answer = await page.request.get(path, { maxRetries: 2 });
      if (!answer.ok()) dead.push(`${path}: ${answer.status()}`);
      if (!/text\/html/.test(answer.headers()['content-type'] ?? '')) continue;
      const drawn = await answer.text();
      waiting.push(
        ...linksOf(drawn).map((link) => (link.startsWith('?') ? path.replace(/\?.*|$/, link) : link)),
      );
      if (!drawn.includes('aria-label="Unfold"')) continue;
      // What is unfolded has links of its own.
      await page.goto(path);
      await listening(page);
      await lastOf(page.getByRole('button', { name: 'Unfold' })).dispatchEvent('click');
      const links = await page
        .locator('a[href^="/"], a[href^="?"]')
        .evaluateAll((all) => all.map((a) => (a as HTMLAnchorElement).href));
      waiting.push(...links.map((link) => link.replace(/^https?:\/\/[^/]+/, '')));
    }
    expect(dead).toEqual([]);
    expect(seen.size).toBeGreaterThan(25);
  });
