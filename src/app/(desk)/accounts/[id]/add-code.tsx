'use client';
import { FormDrawer, Row } from '../../../../ui/form';
import { useRouter } from 'next/navigation';
import { modifiersOf } from './typed-line';
import { addDiagnosisAction, addServiceCodeAction } from '../actions';

/** Adds a code that is missing while a visit is entered; the field then goes on with it. */
export function AddCode({
  kind,
  code,
  form,
  categories,
  close,
  done,
}: {
  kind: 'code' | 'diagnosis';
  /** What was typed. */
  code: string;
  form: string;
  categories: readonly string[];
  close: () => void;
  done: (code: string) => void;
}) {
  const router = useRouter();
  const added = (of: string): void => {
    router.refresh();
    done(of.trim().toUpperCase());
  };
  if (kind === 'diagnosis')
    return (
      <FormDrawer
        title="A diagnosis that is missing"
        onClose={close}
        action={async (sent: Parameters<typeof addDiagnosisAction>[0]) => {
          const answer = await addDiagnosisAction(sent);
          return answer.ok ? { ok: true as const, value: sent.code } : answer;
        }}
        done={added}
        words="Add it and go on"
      >
        {(f) => (
          <>
            <p className="quiet small">A manager sees what was added, and looks at it.</p>
            <f.Text name="code" label="Code (ICD-10-CM)" needed focus maxLength={8} placeholder="E11.9" />
            <f.Text name="description" label="In our words" needed maxLength={200} />
          </>
        )}
      </FormDrawer>
    );
  return (
    <FormDrawer
      title="A service code that is missing"
      onClose={close}
      initial={{ code, form }}
      action={async ({
        modifiers,
        ...sent
      }: Omit<Parameters<typeof addServiceCodeAction>[0], 'modifiers'> & { modifiers?: string }) => {
        const answer = await addServiceCodeAction({ ...sent, modifiers: modifiersOf(modifiers ?? '') });
        return answer.ok ? { ok: true as const, value: sent.code } : answer;
      }}
      done={added}
      words="Add it and go on"
    >
      {(f) => (
        <>
          <p className="quiet small">A manager sees what was added, and looks at it.</p>
          <Row>
            <f.Text name="code" label="Code" needed maxLength={10} />
            <f.Choice
              name="form"
              label="Form"
              needed
              options={[
                { value: 'professional', label: 'professional' },
                { value: 'dental', label: 'dental' },
              ]}
            />
          </Row>
          <f.Text name="description" label="In our words" needed focus maxLength={200} />
          <f.Choice
            name="category"
            label="Category"
            needed
            options={categories.map((value) => ({ value, label: value }))}
          />
          <Row>
            <f.Money name="fee" label="Office fee" />
            <f.Text name="modifiers" label="Usual modifiers" maxLength={12} />
          </Row>
        </>
      )}
    </FormDrawer>
  );
}
