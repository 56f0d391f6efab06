import type { ReactNode } from 'react';
import { useKeyName, type ActionId } from '../state/keymap';

/** A key as it is printed in a tooltip or on the key sheet. */
export function Key({ children }: { readonly children: ReactNode }) {
  return <kbd className="kbd kbd-xs num">{children}</kbd>;
}

interface IconButtonProps {
  readonly label: string;
  /** The action whose key the tooltip tells. */
  readonly action?: ActionId;
  readonly active?: boolean;
  readonly disabled?: boolean;
  readonly onClick: () => void;
  readonly children: ReactNode;
}

/** A small button with an icon, its name and key in the tooltip. */
export function IconButton({ label, action, active, disabled, onClick, children }: IconButtonProps) {
  const keys = useKeyName(action);
  const toggle = active !== undefined;
  return (
    <button
      type="button"
      className={`btn btn-ghost btn-xs h-7 min-w-7 px-1.5 ${active ? 'text-primary' : ''}`}
      title={keys ? `${label} (${keys})` : label}
      aria-label={label}
      aria-pressed={toggle ? active : undefined}
      disabled={disabled}
      onClick={onClick}
    >
      {children}
    </button>
  );
}
