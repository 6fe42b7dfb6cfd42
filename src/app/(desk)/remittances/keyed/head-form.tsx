'use client';
import type { Answer } from '../../../../core/answer';
import { KEYED_METHODS, KEYED_SOURCES } from '../../../../core/remittances/keyed';
import type { InputOf } from '../../../../server/use-case';
import type { startKeyed } from '../../../../server/remittances/keyed';
import { useDesk } from '../../../../ui/desk';
import { FormDrawer, Row as Fields } from '../../../../ui/form';

type Head = Omit<InputOf<typeof startKeyed>, 'key' | 'sure'>;
/** References as they are typed, parted by commas. */
type Typed = Omit<Head, 'references'> & { references?: string };

const optionsOf = (words: Readonly<Record<string, string>>) =>
  Object.entries(words).map(([value, label]) => ({ value, label }));

/** The head of a paper remittance: from whom, how much, when, by what number. */
export function HeadForm<T>({
  title,
  words,
  payers,
  initial,
  once,
  action,
  done,
  onClose,
}: {
  title: string;
  words: string;
  payers: readonly { id: number; name: string }[];
  initial?: Partial<Typed>;
  once?: true;
  action: (input: Head & { key: string }) => Promise<Answer<T>>;
  done: (value: T) => void;
  onClose: () => void;
}) {
  const { today } = useDesk();
  return (
    <FormDrawer<Typed & { key: string }, T>
      title={title}
      words={words}
      onClose={onClose}
      once={once}
      initial={initial ?? { method: 'CHK', source: 'mail', paymentDate: today, receivedDate: today }}
      action={({ references = '', ...head }) =>
        action({
          ...head,
          references: references
            .split(/[,;]/)
            .map((one) => one.trim())
            .filter(Boolean),
        })
      }
      done={done}
    >
      {({ Choice, Money, Text, Date }) => (
        <>
          <Choice
            name="payerId"
            label="Payer"
            needed
            focus
            options={payers.map(({ id, name }) => ({ value: id, label: name }))}
          />
          <Fields>
            <Money name="amount" label="Payment" needed />
            <Choice name="method" label="Paid by" options={optionsOf(KEYED_METHODS)} />
          </Fields>
          <Text name="trace" label="Check or transfer number" needed maxLength={50} />
          <Fields>
            <Date name="paymentDate" label="Date of the payment" needed />
            <Date name="receivedDate" label="Received" />
          </Fields>
          <Choice name="source" label="Came by" options={optionsOf(KEYED_SOURCES)} />
          <Text name="references" label="Further references" hint="Parted by commas" maxLength={200} />
        </>
      )}
    </FormDrawer>
  );
}
