import { choice, date, percent, pick, reference, yesNo } from '../../../core/setup/fields';
import { PAID_BY } from '../../../core/reports/production';
import { setupTable } from '../table';
import { categories } from './categories';

/** What providers are paid of what was earned or came in. */
export const providerShares = setupTable({
  key: 'provider-shares',
  title: 'Shares of providers',
  noun: ['share', 'shares'],
  about: 'What a provider is paid of what was earned or came in, by kind of service, from a day on.',
  table: 'provider_share',
  keys: ['id'],
  order: 'id',
  fields: {
    provider_id: reference('Provider'),
    category: pick('Category', { open: true, hint: 'empty: all that have none of their own' }),
    valid_from: date('From', { hint: 'empty: from the beginning' }),
    basis: choice('Of', PAID_BY),
    share: percent('Share'),
    active: yesNo('Active', { begins: true }),
  },
  refers: { provider_id: 'provider' },
  choices: { category: categories },
});
