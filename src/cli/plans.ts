/** The commands of plans: what one would cost, and the reminders of those that run. */
import { type CalendarDate, addMonths, formatDate, parseDate } from '../core/calendar';
import { parseMoney, toDecimal } from '../core/money';
import { rateField } from '../core/plans/input';
import { NoPlan, quote } from '../core/plans/quote';
import { EVERY, type Every } from '../core/plans/terms';
import { counted } from '../core/words';
import { db } from '../db/connect';
import { businessDate, systemContext } from '../server/access';
import { remindersDue, sendReminders, watchPlans } from '../server/plans/watch';
import { Stop } from './cluster';
import type { Flags } from './flags';

const print = (words: string): void => void process.stdout.write(`${words}\n`);

function moneyOf(text: string, name: string) {
  const amount = parseMoney(text);
  if (amount === null) throw new Stop(`--${name} is an amount such as 560.00`);
  return amount;
}

/** The first installment where none is said: a period from the day it is agreed. */
const aPeriodOn = (today: CalendarDate, every: Every): CalendarDate => {
  if (every === 'month') return addMonths(today, 1);
  const day = new Date(`${today}T00:00:00Z`);
  day.setUTCDate(day.getUTCDate() + (every === 'week' ? 7 : 14));
  return day.toISOString().slice(0, 10) as CalendarDate;
};

/**
 * Says what a plan would cost; no database is asked, so that what is agreed today is agreed by the machine's clock.
 * `--months` is the number of installments.
 */
export function plansQuote({
  amount,
  down,
  rate,
  months,
  every = 'month',
  agreed,
  first,
  json,
}: Flags): number {
  if (amount === undefined || months === undefined)
    throw new Stop('Say --amount and --months, such as --amount 560.00 --down 60.00 --rate 5 --months 6');
  if (!Object.hasOwn(EVERY, every)) throw new Stop(`--every is ${Object.keys(EVERY).join(', ')}`);
  const how = every as Every;
  const day = agreed === undefined ? businessDate(new Date()) : parseDate(agreed);
  if (day === null) throw new Stop('--agreed is a date such as 2026-03-16');
  const firstDate = first === undefined ? aPeriodOn(day, how) : parseDate(first);
  if (firstDate === null) throw new Stop('--first is a date such as 2026-04-16');
  const parsed = rateField.safeParse(rate ?? '0');
  if (!parsed.success) throw new Stop('--rate is a percentage a year with at most two decimals');
  if (!/^\d{1,4}$/.test(months)) throw new Stop('--months is how many installments there are');
  try {
    const found = quote({
      amount: moneyOf(amount, 'amount'),
      down: moneyOf(down ?? '0', 'down'),
      rate: parsed.data,
      every: how,
      by: { installments: Number(months) },
      agreed: day,
      first: firstDate,
      interestBy: 'period',
    });
    if (json) {
      print(
        JSON.stringify({
          level_cents: found.level,
          finance_charge_cents: found.financeCharge,
          total_cents: found.total,
          apr: found.apr,
          installments: found.installments.map((one) => ({
            date: one.date,
            amount_cents: one.amount,
            principal_cents: one.principal,
            interest_cents: one.interest,
            left_cents: one.left,
          })),
        }),
      );
      return 0;
    }
    for (const one of found.installments)
      print(
        [
          one.number,
          formatDate(one.date),
          toDecimal(one.amount),
          toDecimal(one.principal),
          toDecimal(one.interest),
          toDecimal(one.left),
        ].join('\t'),
      );
    print(
      `${found.installments.length} installments of ${toDecimal(found.level)}, finance charge ${toDecimal(found.financeCharge)}, total ${toDecimal(found.total)}, annual percentage rate ${found.apr.toFixed(2)} %`,
    );
    return 0;
  } catch (error) {
    if (error instanceof NoPlan) throw new Stop(error.message);
    throw error;
  }
}

/** Watches plans and sends the reminders that are due; with a dry run it only says which. */
export async function plansRemind(dry = false, json = false): Promise<number> {
  const context = await systemContext(db());
  if (dry) {
    const due = await remindersDue(context);
    const rows = due.map(({ plan, account, number, kind, date, amount }) => ({
      plan,
      household: account,
      installment: number,
      kind,
      date,
      amount_cents: amount,
    }));
    if (json) print(JSON.stringify(rows));
    else
      for (const row of rows)
        print([row.kind, row.plan, row.household, row.date, row.amount_cents].join('\t'));
    return 0;
  }
  const watched = await watchPlans(context);
  const sent = await sendReminders(context);
  if (json)
    print(JSON.stringify({ sent, broken: watched.broken, late: watched.late, interest: watched.interest }));
  else
    print(
      `${counted(sent, 'reminder')} sent, ${counted(watched.broken, 'plan is', 'plans are')} broken, ${counted(watched.late, 'late charge')}`,
    );
  return 0;
}
