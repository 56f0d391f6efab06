interface Props<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly options: Readonly<Record<T, string>>;
  readonly titles?: Partial<Readonly<Record<T, string>>>;
  readonly onChange: (value: T) => void;
}

/** One of a few that are all in sight. */
export function Segments<T extends string>({ label, value, options, titles, onChange }: Props<T>) {
  const entries = Object.entries<string>(options) as [T, string][];
  return (
    <div
      className="join grid"
      style={{ gridTemplateColumns: `repeat(${entries.length}, 1fr)` }}
      role="group"
      aria-label={label}
    >
      {entries.map(([key, text]) => (
        <button
          key={key}
          type="button"
          aria-pressed={value === key}
          title={titles?.[key]}
          className={`btn btn-sm join-item px-1 ${value === key ? 'btn-primary' : ''}`}
          onClick={() => onChange(key)}
        >
          {text}
        </button>
      ))}
    </div>
  );
}
