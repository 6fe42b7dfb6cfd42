'use client';
/** Several of a list. It closes with each choice, so that the Tab key leads on instead of choosing once more. */
import { Select, type SelectProps } from 'antd';
import { useState } from 'react';

/** The field; typing opens it again. */
export function Several<Value>(
  props: Omit<SelectProps<Value>, 'mode' | 'open' | 'onOpenChange' | 'onSelect'>,
) {
  const [open, setOpen] = useState(false);
  return (
    <Select<Value>
      {...props}
      mode="multiple"
      open={open}
      onOpenChange={setOpen}
      onSelect={() => setOpen(false)}
    />
  );
}
