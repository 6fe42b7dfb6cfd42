import { describeStatus } from './status-words';

describe('claim status in words', () => {
  test('known codes are told with the party meant, and their codes stand behind', () => {
    expect(describeStatus({ category: 'A7', status: '164', entity: 'IL' })).toBe(
      'subscriber: member id (invalid information, A7:164:IL)',
    );
    expect(describeStatus({ category: 'A3', status: '54', entity: '' })).toBe(
      'duplicate of an earlier claim (not accepted, A3:54)',
    );
  });

  test('an unknown code is shown as it came', () => {
    expect(describeStatus({ category: 'E9', status: '999', entity: 'ZZ' })).toBe(
      'status 999 (E9, E9:999:ZZ)',
    );
  });
});
