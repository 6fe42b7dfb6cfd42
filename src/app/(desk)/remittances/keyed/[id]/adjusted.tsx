'use client';
import { adjustmentWords } from '../../../../../core/remittances/adjustment-words';
import { toDecimal } from '../../../../../core/money';
import type { KeyedPage } from '../../../../../server/remittances/keyed-page';
import { FormDrawer } from '../../../../../ui/form';
import { sayKeyedAdjustmentsAction } from '../../actions';

const CODES = ['L6', 'WO', 'FB', 'CS', '72', '50', 'L3', 'J1'];

/** What a paper takes off the payment, or adds to it, for no claim. */
export function Adjusted({ keyed, onClose }: { keyed: KeyedPage; onClose: () => void }) {
  return (
    <FormDrawer
      title="Interest and offsets"
      words="Keep"
      size={520}
      onClose={onClose}
      along={{ keyedId: keyed.id, seen: keyed.version }}
      initial={{
        adjustments: keyed.adjustments.map(({ code, reference, amount }) => ({
          code,
          reference,
          amount: toDecimal(amount),
        })),
      }}
      action={sayKeyedAdjustmentsAction}
      done={onClose}
    >
      {({ Rows }) => (
        <>
          <Rows
            name="adjustments"
            label="adjustment"
            adds="Add one"
            columns={[
              {
                name: 'code',
                label: 'Code',
                kind: CODES.map((value) => ({ value, label: adjustmentWords(value) })),
              },
              { name: 'reference', label: 'Reference', kind: 'text' },
              { name: 'amount', label: 'Amount', width: '110px', kind: 'money' },
            ]}
          />
          <p className="quiet small">
            What lowers the payment is typed above zero, as an offset; what is paid on top below zero, as
            interest.
          </p>
        </>
      )}
    </FormDrawer>
  );
}
