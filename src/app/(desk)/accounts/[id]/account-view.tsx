'use client';
import { usePathname, useRouter } from 'next/navigation';
import { Fragment } from 'react';
import { LEDGER_VIEWS, type LedgerView } from '../../../../core/accounts/ledger-views';
import type { AccountPage } from '../../../../server/account-page/read';
import { useAct } from '../../../../ui/act';
import { type Act, ActBar } from '../../../../ui/acts';
import { useDesk, useMay } from '../../../../ui/desk';
import { useDialog } from '../../../../ui/dialog';
import { useAddress } from '../../../../ui/filters';
import { useKeys } from '../../../../ui/keys';
import { useNarrow } from '../../../../ui/narrow';
import { Head } from '../../../../ui/page';
import css from './account.module.css';
import { type AccountDesk, type AccountForms, AccountProvider } from './section';
import { SECTIONS } from './sections';

/** The account page: its head, and its sections in their order. Dialogs and filters live in the address. */
export function AccountView({ account, forms }: { account: AccountPage; forms: AccountForms }) {
  const router = useRouter();
  const path = usePathname();
  const { dialog, params, open, close } = useDialog();
  const set = useAddress();
  const may = useMay();
  const narrow = useNarrow();
  const { today } = useDesk();
  const { busy, run } = useAct();
  const wanted = Number(params.get('member')) || 0;
  const view = params.get('view') ?? 'all';
  const desk: AccountDesk = {
    account,
    forms,
    today,
    may,
    member: account.members.some(({ id }) => id === wanted) ? wanted : 0,
    view: Object.hasOwn(LEDGER_VIEWS, view) ? (view as LedgerView) : 'all',
    dialog,
    params,
    narrow,
    open,
    close,
    go: (href) => router.push(href),
    set,
    run,
    busy,
  };
  useKeys([
    {
      key: 'Escape',
      words: 'back to the list',
      run: () => (dialog ? close() : router.push('/accounts')),
    },
  ]);
  const acts = SECTIONS.flatMap((section) => section.acts?.(desk) ?? []).filter((act): act is Act => !!act);
  const shown = SECTIONS.map(({ dialogs }) => (dialog && dialogs ? dialogs[dialog] : undefined)).find(
    Boolean,
  );
  const { household: h } = account;
  return (
    <AccountProvider value={desk}>
      <div className={css.account} key={path}>
        <Head
          title={`${h.last}, ${h.first}`}
          note={`${h.number} · ${h.phone || 'no phone'} · ${h.line1}, ${h.city} ${h.state} ${h.zip}`}
          below
        >
          <ActBar acts={acts} />
        </Head>
        {SECTIONS.map(({ Panel }, index) => (
          <Fragment key={index}>{Panel && <Panel />}</Fragment>
        ))}
      </div>
      {shown && (shown.may === undefined || may(shown.may)) && shown.draw(desk)}
    </AccountProvider>
  );
}
