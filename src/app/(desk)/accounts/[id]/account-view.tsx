'use client';
import { usePathname, useRouter } from 'next/navigation';
import { Fragment } from 'react';
import { LEDGER_VIEWS, type LedgerView } from '../../../../core/accounts/ledger-views';
import type { AccountPage } from '../../../../server/account-page/read';
import { useAct } from '../../../../ui/act';
import { useDesk, useMay } from '../../../../ui/desk';
import { useDialog } from '../../../../ui/dialog';
import { useAddress } from '../../../../ui/filters';
import { useNarrow } from '../../../../ui/narrow';
import { Thing } from '../../../../ui/thing';
import css from './account.module.css';
import { type AccountDesk, type AccountForms, AccountProvider } from './section';
import { SECTIONS } from './sections';

/** The account page: its head, and its sections in their order. Dialogs and filters live in the address. */
export function AccountView({ account, forms }: { account: AccountPage; forms: AccountForms }) {
  const path = usePathname();
  const router = useRouter();
  const { dialog, params, open, close } = useDialog();
  const set = useAddress();
  const may = useMay();
  const narrow = useNarrow();
  const { today } = useDesk();
  const { busy, run } = useAct();
  const wanted = Number(params.get('member')) || 0;
  const view = params.get('view') ?? 'all';
  const kase = Number(params.get('case')) || 0;
  const shownCase = account.members.flatMap(({ cases }) => cases).find(({ id }) => id === kase) ?? null;
  const desk: AccountDesk = {
    account,
    forms,
    today,
    may,
    // A case is one person's.
    member: shownCase?.patientId ?? (account.members.some(({ id }) => id === wanted) ? wanted : 0),
    shownCase,
    view: Object.hasOwn(LEDGER_VIEWS, view) ? (view as LedgerView) : 'all',
    dialog,
    params,
    narrow,
    open,
    close,
    set,
    go: (href) => router.push(href),
    run,
    busy,
  };
  const acts = SECTIONS.flatMap((section) => section.acts?.(desk) ?? []);
  const shown = SECTIONS.map(({ dialogs }) => (dialog && dialogs ? dialogs[dialog] : undefined)).find(
    Boolean,
  );
  const { household: h } = account;
  return (
    <AccountProvider value={desk}>
      <div className={css.account} key={path}>
        <Thing
          title={`${h.last}, ${h.first}`}
          note={`${h.number} · ${h.phone || 'no phone'} · ${h.line1}, ${h.city} ${h.state} ${h.zip}`}
          acts={acts}
          tight={dialog === 'story'}
          back={{
            href: '/accounts',
            words: 'back to the list',
            first: () => {
              if (dialog) close();
              return dialog !== null;
            },
          }}
        >
          {SECTIONS.map(({ Panel }, index) => (
            <Fragment key={index}>{Panel && <Panel />}</Fragment>
          ))}
        </Thing>
      </div>
      {shown && (shown.may === undefined || may(shown.may)) && shown.draw(desk)}
    </AccountProvider>
  );
}
