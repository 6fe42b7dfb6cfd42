'use client';
/** Finding a person, by name, account or birth date. */
import { Select } from 'antd';
import { useEffect, useRef, useState } from 'react';
import css from './form.module.css';
import { findHits } from './searching';

interface Person {
  /** The person’s id: several of one account may be found. */
  value: number;
  href: string;
  label: string;
  detail: string;
}

/** A field that finds people as one types. @param choose told the address of the account, and the person */
export function PersonField({
  id,
  label,
  choose,
}: {
  id: string;
  label: string;
  choose: (href: string, patientId: number) => void;
}) {
  const [found, setFound] = useState<Person[]>([]);
  const [text, setText] = useState('');
  const asked = useRef(0);
  useEffect(() => {
    if (text.trim().length < 2) {
      setFound([]);
      return;
    }
    const turn = (asked.current += 1);
    const timer = setTimeout(() => {
      findHits<{ kind: string; title: string; detail: string; href: string; patientId?: number }>(
        text.trim(),
      ).then(
        (hits) =>
          turn === asked.current &&
          setFound(
            hits
              .filter((hit) => hit.kind === 'account')
              .map((hit) => ({
                value: hit.patientId ?? 0,
                href: hit.href,
                label: hit.title,
                detail: hit.detail,
              })),
          ),
        () => undefined,
      );
    }, 120);
    return () => clearTimeout(timer);
  }, [text]);
  return (
    <Select
      id={id}
      aria-label={label}
      placeholder={label}
      className={css.person}
      showSearch={{ filterOption: false, onSearch: setText }}
      options={found}
      optionRender={(option) => (
        <>
          {option.label} <small className="quiet">{(option.data as Person).detail}</small>
        </>
      )}
      notFoundContent={text.trim().length < 2 ? null : `Nobody found for “${text}”`}
      onChange={(id: number) => {
        const person = found.find(({ value }) => value === id);
        if (person) choose(person.href, id);
      }}
    />
  );
}
