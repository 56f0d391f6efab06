import { ChevronRight } from 'lucide-react';
import { useState, type ReactNode } from 'react';

export function Section({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <section className="rule space-y-2 border-b px-3 py-3">
      <h3 className="text-[13px] font-semibold">{title}</h3>
      {children}
    </section>
  );
}

export function Hint({ children }: { readonly children: ReactNode }) {
  return <p className="quiet text-xs leading-snug">{children}</p>;
}

/** A number that is read, not set. */
export function Reading({
  label,
  value,
  strong,
}: {
  readonly label: string;
  readonly value: string;
  readonly strong?: boolean;
}) {
  return (
    <div className="flex items-baseline justify-between gap-2">
      <span className={strong ? '' : 'quiet'}>{label}</span>
      <span className={`num text-right ${strong ? 'text-base font-semibold' : ''}`}>{value}</span>
    </div>
  );
}

/** A section that stays closed until it is wanted. */
export function Fold({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  const [open, setOpen] = useState(false);
  return (
    <details className="rule group border-b" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="flex cursor-pointer list-none items-center gap-1.5 px-3 py-2.5 text-[13px] font-semibold">
        <ChevronRight size={13} className="shrink-0 group-open:rotate-90" aria-hidden="true" />
        {title}
      </summary>
      {open && <div className="space-y-2 px-3 pb-3">{children}</div>}
    </details>
  );
}
