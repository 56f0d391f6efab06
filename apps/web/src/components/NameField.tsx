/** A name that is changed in its place: Enter or leaving it takes it over, nothing else than blanks leaves it as it was. */
export function NameField({
  label,
  of,
  name,
  onName,
}: {
  readonly label: string;
  /** What the name is of, for whoever does not see it. */
  readonly of: string;
  readonly name: string;
  readonly onName: (name: string) => void;
}) {
  return (
    <label className="flex items-center gap-2">
      <span className="grow">{label}</span>
      <input
        key={name}
        className="input input-xs w-40"
        aria-label={of}
        defaultValue={name}
        maxLength={60}
        onBlur={(e) => {
          const text = e.target.value.trim();
          if (text && text !== name) onName(text);
          else e.target.value = name;
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
        }}
      />
    </label>
  );
}
