'use client';
import { Button, Segmented } from 'antd';
import { useState } from 'react';
import { formatDate } from '../../../../core/calendar';
import { AUDIENCES, type Audience, NOTED_ABOUT } from '../../../../core/notes/notes';
import type { NoteRow } from '../../../../server/notes/notes';
import { useAct } from '../../../../ui/act';
import { DeskDrawer } from '../../../../ui/drawer';
import { DeskForm, Row } from '../../../../ui/form';
import { Loaded } from '../../../../ui/loaded';
import { Tag } from '../../../../ui/tag';
import { endNoteAction, noteAction, notesAction } from '../actions';
import css from './account.module.css';

/** All that was noted on an account, wherever; and a new note, for us or for the patient. */
export function NotesDrawer({ householdId, onClose }: { householdId: number; onClose: () => void }) {
  const [turn, setTurn] = useState(0);
  const again = (): void => setTurn((now) => now + 1);
  return (
    <DeskDrawer size={480} title="Notes" onClose={onClose}>
      <NewNote key={turn} householdId={householdId} again={again} />
      <Loaded of={`${householdId}-${turn}`} read={() => notesAction({ householdId })}>
        {(notes) =>
          notes.length === 0 ? (
            <p className="quiet">Nothing is noted yet.</p>
          ) : (
            <ul className={`${css.part} ${css.stops}`} aria-label="Notes of this account">
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
          about !== 'account' && `${NOTED_ABOUT[about]}${note.beside && `: ${note.beside}`}`,
          pinned && 'at the head of the account',
          times !== null && (times === 1 ? 'prints once' : `prints ${times} times`),
          until !== null && `until ${formatDate(until)}`,
          ended && `ended on ${formatDate(ended.day)} by ${ended.by}`,
        ]
          .filter(Boolean)
          .join(' · ')}
      </div>
      {about === 'account' && note.stands && (
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

function NewNote({ householdId, again }: { householdId: number; again: () => void }) {
  const [audience, setAudience] = useState<Audience>('us');
  const [where, setWhere] = useState<'record' | 'head'>('record');
  const patient = audience === 'patient';
  return (
    <section aria-label="New note" className={css.part}>
      <Segmented
        aria-label="For whom"
        value={audience}
        onChange={setAudience}
        options={(Object.keys(AUDIENCES) as Audience[]).map((value) => ({ value, label: AUDIENCES[value] }))}
      />
      {!patient && (
        <Segmented
          aria-label="Where it stands"
          value={where}
          onChange={setWhere}
          options={[
            { value: 'record', label: 'Among the notes' },
            { value: 'head', label: 'At the head of the account' },
          ]}
        />
      )}
      <DeskForm
        key={audience}
        initial={patient ? { times: '1' } : {}}
        along={{ householdId, audience, pinned: !patient && where === 'head' }}
        once
        action={noteAction}
        done={again}
        words="Add"
      >
        {(f) => (
          <>
            <f.Text name="words" label="What it says" needed focus maxLength={500} />
            <Row>
              {patient && <f.Text name="times" label="So many times" />}
              {(patient || where === 'head') && (
                <f.Date name="until" label={patient ? 'or until' : 'Until'} />
              )}
            </Row>
          </>
        )}
      </DeskForm>
    </section>
  );
}
