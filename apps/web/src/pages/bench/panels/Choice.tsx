/** One of a few, as a list that opens. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  readonly label: string;
  readonly value: T;
  readonly options: Readonly<Record<T, string>>;
  readonly onChange: (value: T) => void;
}) {
  return (
    <label className="flex items-center gap-2">
      <span className="grow">{label}</span>
      <select
        className="select select-xs w-40"
        aria-label={label}
        value={value}
        onChange={(e) => {
          onChange(e.target.value as T);
          e.target.blur(); // gives the keys back to the Bench
        }}
      >
        {Object.entries<string>(options).map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}
