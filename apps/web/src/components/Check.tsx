import type { ReactNode } from 'react';

/** A box to tick, with its words. */
export function Check({
  checked,
  title,
  disabled,
  onChange,
  children,
}: {
  readonly checked: boolean;
  readonly title?: string;
  readonly disabled?: boolean;
  readonly onChange: (on: boolean) => void;
  readonly children: ReactNode;
}) {
  return (
    <label className="flex cursor-pointer items-center gap-2" title={title}>
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        {...{ checked, disabled }}
        onChange={(e) => onChange(e.target.checked)}
      />
      {children}
    </label>
  );
}
