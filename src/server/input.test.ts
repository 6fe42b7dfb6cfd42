import { z } from 'zod';
import { memberInput, registrationInput } from '../core/accounts/input';
import { receiptInput } from '../core/payments/input';
import { Conflict, Refused } from './access';
import { parseInput } from './input';
import { refuseOlder } from './versions';

const refusal = (run: () => unknown): Refused => {
  try {
    run();
  } catch (error) {
    if (error instanceof Refused) return error;
    throw error;
  }
  throw new Error('It was not refused');
};

describe('input from outside', () => {
  test('everything that is wrong is said at its field, the first one first', () => {
    const { message, field, fields } = refusal(() =>
      parseInput(registrationInput, { last: '', zip: 'x', birthDate: 12, key: 'long enough' }),
    );
    expect([message, field]).toEqual(['Last name is missing', 'last']);
    expect(fields).toMatchObject({
      last: 'Last name is missing',
      first: 'First name is missing',
      zip: 'ZIP has five or nine digits',
      birthDate: 'Birth date is not what belongs there',
    });
  });

  test.each([undefined, null, 'text', 12, []])('%j is no input', (input) =>
    expect(refusal(() => parseInput(memberInput, input)).message).toMatch(/^The input /),
  );

  test('a sentence of its own is not put behind the name of a field', () => {
    const schema = z.object({ why: z.string().min(1, 'Say why it is void') });
    expect(refusal(() => parseInput(schema, { why: '' })).message).toBe('Say why it is void');
  });

  test('what nobody asked for is dropped', () => {
    const data = parseInput(receiptInput, {
      householdId: '3',
      tenders: [{ tender: 'cash', amount: '1.50', number: '4111' }],
      key: 'long enough',
      role: 'manager',
    } as never);
    expect(data).toEqual({
      householdId: 3,
      patientId: null,
      locationId: null,
      expectedVisitId: null,
      reserve: null,
      agency: null,
      tenders: [{ tender: 'cash', amount: 150, reference: '', given: null, reading: '' }],
      spread: 'oldest',
      order: [],
      first: null,
      sure: false,
      together: false,
      note: '',
      paidBy: '',
      receivedOn: null,
      key: 'long enough',
    });
  });

  test.each(['0', '-1', '1.5', 'x', '', null])('an id of %j is none', (householdId) =>
    expect(
      refusal(() =>
        parseInput(receiptInput, {
          householdId,
          tenders: [{ tender: 'cash', amount: '1' }],
          key: 'long enough',
        }),
      ).field,
    ).toBe('householdId'),
  );
});

describe('a change made on an older version', () => {
  const labels = { name: 'Name', tags: 'Tags' };
  const there = { name: 'Theirs', tags: ['a', 'b'] };

  test('on the version that stands there, or on none, it goes', () => {
    expect(() => refuseOlder(4, 4, there, { name: 'Mine' }, labels)).not.toThrow();
    expect(() => refuseOlder(undefined, 4, there, { name: 'Mine' }, labels)).not.toThrow();
  });

  test('both sides are shown where they differ, and only there', () => {
    const conflict = refusal(() =>
      refuseOlder(3, 4, there, { name: 'Mine', tags: ['a', 'b'] }, labels),
    ) as Conflict;
    expect(conflict).toBeInstanceOf(Conflict);
    expect(conflict.version).toBe(4);
    expect(conflict.differences).toEqual([
      { field: 'name', label: 'Name', theirs: 'Theirs', mine: 'Mine', value: 'Theirs' },
    ]);
  });

  test('where nothing differs it is said that somebody saved meanwhile', () => {
    expect(refusal(() => refuseOlder(3, 4, there, there, labels)).message).toMatch(/look at it again/);
  });

  test('empty is shown as a dash', () => {
    const conflict = refusal(() =>
      refuseOlder(3, 4, { name: null, tags: [] }, { name: '', tags: ['x'] }, labels),
    ) as Conflict;
    expect(conflict.differences).toEqual([
      { field: 'tags', label: 'Tags', theirs: '–', mine: 'x', value: [] },
    ]);
  });
});
