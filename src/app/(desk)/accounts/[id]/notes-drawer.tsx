'use client';
import { Button, Segmented } from 'antd';
import { useEffect, useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { AUDIENCES, type Audience, NOTED_ABOUT } from '../../../../core/notes/notes';
import type { NoteRow } from '../../../../server/notes/notes';
import { useAct } from '../../../../ui/act';
import { DeskDrawer } from '../../../../ui/drawer';
import { DeskForm, Row } from '../../../../ui/form';
import { Loaded } from '../../../../ui/loaded';
import { Tag } from '../../../../ui/tag';
import type { Member } from '../../../../server/accounts/members';
import { commonNoticesAction, endNoteAction, noteAction, notesAction } from '../actions';
import css from './account.module.css';

/** What notes are about: an account, or a payer. */
type Of = { householdId: number } | { payerId: number };

/** All that was noted on an account or a payer, wherever; and a new note, for us or for the patient. */
export function NotesDrawer({
  of,
  people = [],
  onClose,
}: {
  of: Of;
  /** Whom of the account a note may be about. */
  people?: readonly Member[];
  onClose: () => void;
}) {
  const [turn, setTurn] = useState(0);
  const again = (): void => setTurn((now) => now + 1);
  return (
    <DeskDrawer size={480} title="Notes" onClose={onClose}>
      <NewNote key={turn} of={of} people={people} again={again} />
      <Loaded of={`${JSON.stringify(of)}-${turn}`} read={() => notesAction(of)}>
        {(notes) =>
          notes.length === 0 ? (
            <p className="quiet">Nothing is noted yet.</p>
          ) : (
            <ul className={`${css.part} ${css.stops}`} aria-label="Notes">
              {notes.map((note) => (
                <Note key={note.id} note={note} again={again} />
              ))}
            </ul>
          )
        }
      </Loaded>
    </DeskDrawer>
  );
}

/** One note, what it stands beside, and how long. */
function Note({ note, again }: { note: NoteRow; again: () => void }) {
  const { busy, run } = useAct();
  const { about, audience, pinned, until, times, ended } = note;
  return (
    <li className={note.stands ? undefined : 'quiet'}>
      {audience === 'patient' && <Tag tone="look">for the patient</Tag>} {note.words}
      <div className="quiet small">
        {[
          `${formatDate(note.day)}, ${note.by}`,
          about === 'account' || about === 'payer'
            ? note.beside
            : `${NOTED_ABOUT[about]}${note.beside && `: ${note.beside}`}`,
          pinned && (about === 'payer' ? 'wherever it is met' : 'at the head of the account'),
          note.onOpening && 'read on opening',
          times !== null && (times === 1 ? 'prints once' : `prints ${times} times`),
          until !== null && `until ${formatDate(until)}`,
          ended && `ended on ${formatDate(ended.day)} by ${ended.by}`,
        ]
          .filter(Boolean)
          .join(' · ')}
      </div>
      {(about === 'account' || about === 'payer') && note.stands && (
        <Button
          size="small"
          loading={busy}
          onClick={() =>
            void run(
              () => endNoteAction({ noteId: note.id }),
              audience === 'patient' ? 'It prints no more' : 'It stands on the record alone',
            ).then((done) => done && again())
          }
        >
          {audience === 'patient' ? 'Print no more' : pinned ? 'Take from the head' : 'Done with it'}
        </Button>
      )}
    </li>
  );
}

function NewNote({ of, people, again }: { of: Of; people: readonly Member[]; again: () => void }) {
  const [audience, setAudience] = useState<Audience>('us');
  const [where, setWhere] = useState<'record' | 'head' | 'opening'>('record');
  const [common, setCommon] = useState<readonly string[]>([]);
  useEffect(() => {
    let here = true;
    void commonNoticesAction().then((answer) => here && answer.ok && setCommon(answer.value));
    return () => {
      here = false;
    };
  }, []);
  const ofPayer = 'payerId' in of;
  // A person, or one of the person's cases.
  const whose = people.flatMap(({ id, first, cases }) => [
    { value: `${id}/`, label: first },
    ...cases
      .filter(({ standing }) => !standing)
      .map((one) => ({ value: `${id}/${one.id}`, label: `${first}: ${one.name}` })),
  ]);
  const patient = audience === 'patient';
  return (
    <section aria-label="New note" className={css.part}>
      {!ofPayer && (
        <Segmented
          aria-label="For whom"
          value={audience}
          onChange={setAudience}
          options={(Object.keys(AUDIENCES) as Audience[]).map((value) => ({
            value,
            label: AUDIENCES[value],
          }))}
        />
      )}
      {!patient && (
        <Segmented
          aria-label="Where it stands"
          value={where}
          onChange={setWhere}
          options={[
            { value: 'record', label: 'Among the notes' },
            { value: 'head', label: ofPayer ? 'Wherever it is met' : 'At the head of the account' },
            { value: 'opening', label: 'Read on opening' },
          ]}
        />
      )}
      <DeskForm
        key={audience}
        initial={patient ? { times: '1' } : {}}
        along={{
          ...of,
          audience,
          pinned: !patient && where !== 'record',
          onOpening: !patient && where === 'opening',
        }}
        once
        action={({ whose: about, ...sent }: Parameters<typeof noteAction>[0] & { whose?: string | null }) => {
          const [patientId, caseId] = (about ?? '').split('/').map((id) => Number(id) || null);
          return noteAction({ ...sent, patientId, caseId });
        }}
        done={again}
        words="Add"
      >
        {(f) => (
          <>
            {patient ? (
              <f.Text name="words" label="What it says" needed focus maxLength={500} />
            ) : (
              <f.Code
                name="words"
                label="What it says"
                needed
                focus
                options={common.map((value) => ({ value, label: value }))}
              />
            )}
            <Row>
              {!patient && whose.length > 1 && (
                <f.Choice name="whose" label="About" empty="The account" options={whose} />
              )}
              {patient && <f.Text name="times" label="So many times" />}
              {(patient || where !== 'record') && (
                <f.Date name="until" label={patient ? 'or until' : 'Until'} />
              )}
            </Row>
          </>
        )}
      </DeskForm>
    </section>
  );
}
