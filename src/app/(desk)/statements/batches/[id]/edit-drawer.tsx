'use client';
import { LAYOUTS, RANGES } from '../../../../../core/statements/document';
import { counted } from '../../../../../core/words';
import { FormDrawer, Row } from '../../../../../ui/form';
import { type Takes, useAct } from '../../../../../ui/act';
import { DeskDrawer } from '../../../../../ui/drawer';
import { PersonField } from '../../../../../ui/person-field';
import { addHouseholdAction, editPiecesAction } from '../../actions';

type Changes = Takes<typeof editPiecesAction>;
/** What the form holds: options are sent together. */
type Typed = Pick<Changes, 'delivery' | 'note' | 'dueDate'> & NonNullable<Changes['options']>;

/** Changes drafts: what is left empty stays as it is with each. */
export function EditDrawer({
  pieceIds,
  letters,
  onClose,
}: {
  pieceIds: readonly number[];
  /** They are letters, whose words are their template’s. */
  letters: boolean;
  onClose: () => void;
}) {
  return (
    <FormDrawer
      title={counted(pieceIds.length, 'draft')}
      onClose={onClose}
      done={onClose}
      words={`Change ${counted(pieceIds.length, 'draft')}`}
      action={({ delivery, note, dueDate, range, items, layout }: Typed) =>
        editPiecesAction({
          pieceIds: [...pieceIds],
          ...(delivery ? { delivery } : {}),
          ...(note ? { note } : {}),
          ...(dueDate ? { dueDate } : {}),
          ...(letters
            ? {}
            : {
                options: {
                  ...(range ? { range } : {}),
                  ...(items ? { items } : {}),
                  ...(layout ? { layout } : {}),
                },
              }),
        })
      }
    >
      {(f) => (
        <>
          <p className="quiet small">What is left empty stays as it is.</p>
          {!letters && (
            <f.Text
              name="note"
              label="Words for the patient, on this statement alone"
              maxLength={500}
              focus
            />
          )}
          <Row>
            {!letters && <f.Date name="dueDate" label="To be paid by" />}
            <f.Choice
              name="delivery"
              label="How"
              empty="As it is"
              options={[
                { value: 'mail', label: 'printed here' },
                { value: 'print-shop', label: 'print shop' },
                { value: 'email', label: 'e-mail' },
              ]}
            />
          </Row>
          {!letters && (
            <>
              <f.Choice
                name="range"
                label="How far back"
                empty="As it is"
                options={Object.entries(RANGES).map(([value, label]) => ({ value, label }))}
              />
              <Row>
                <f.Choice
                  name="items"
                  label="Which charges"
                  empty="As it is"
                  options={[
                    { value: 'open', label: 'those that are open' },
                    { value: 'all', label: 'all of them' },
                  ]}
                />
                <f.Choice
                  name="layout"
                  label="In which order"
                  empty="As it is"
                  options={Object.entries(LAYOUTS).map(([value, label]) => ({ value, label }))}
                />
              </Row>
            </>
          )}
        </>
      )}
    </FormDrawer>
  );
}

/** Adds a household to a batch, whatever the rows said: it is added when it is chosen. */
export function AddDrawer({ batchId, onClose }: { batchId: number; onClose: () => void }) {
  const { run } = useAct();
  const add = async (href: string): Promise<void> => {
    const householdId = Number(/^\/accounts\/(\d+)/.exec(href)?.[1]);
    const added = await run(() => addHouseholdAction({ batchId, householdId }), 'Added at the end');
    if (added) onClose();
  };
  return (
    <DeskDrawer title="Add a household" onClose={onClose}>
      <PersonField id="add-household" label="Name, account or birth date" choose={(href) => void add(href)} />
    </DeskDrawer>
  );
}
