import type { ColumnMapping, SampleTable } from '@lurn/core/formats';

const PREVIEWED = 6;
const FIELDS: readonly {
  readonly key: keyof ColumnMapping;
  readonly label: string;
  readonly needed: boolean;
}[] = [
  { key: 'frame', label: 'Frame', needed: true },
  { key: 'x', label: 'Across, px', needed: true },
  { key: 'y', label: 'Down, px', needed: true },
  { key: 'spot', label: 'Spot', needed: false },
  { key: 'confidence', label: 'Confidence', needed: false },
  { key: 'state', label: 'State', needed: false },
];

interface Props {
  readonly table: SampleTable;
  readonly mapping: ColumnMapping;
}

/** Which column is what, and from which number the file counts frames. */
export function ColumnChoice({
  table,
  mapping,
  onChange,
  firstFrame,
  onFirstFrame,
}: Props & {
  readonly onChange: (mapping: ColumnMapping) => void;
  readonly firstFrame: number;
  readonly onFirstFrame: (frame: number) => void;
}) {
  return (
    <>
      <div className="grid grid-cols-3 gap-x-4 gap-y-1.5">
        {FIELDS.map(({ key, label, needed }) => (
          <label key={key} className="flex items-center gap-2 text-xs">
            <span className="w-20">{label}</span>
            <select
              className="select select-xs grow"
              value={mapping[key] ?? ''}
              onChange={(e) =>
                onChange({ ...mapping, [key]: e.target.value === '' ? null : Number(e.target.value) })
              }
            >
              {!needed && <option value="">none</option>}
              {table.columns.map((c, i) => (
                <option key={c + i} value={i}>
                  {c}
                </option>
              ))}
            </select>
          </label>
        ))}
      </div>
      <label className="flex items-center gap-2 text-xs">
        The clip’s first frame is number
        <select
          className="select select-xs w-16"
          value={firstFrame}
          onChange={(e) => onFirstFrame(Number(e.target.value))}
        >
          <option value={0}>0</option>
          <option value={1}>1</option>
        </select>
        in the file.
        {table.decimalComma && ' Decimal commas are read as such.'}
      </label>
    </>
  );
}

/** The first lines of the file, with what their columns are taken for. */
export function TablePreview({ table, mapping }: Props) {
  return (
    <div className="rule overflow-x-auto border">
      <table className="num w-full text-xs">
        <thead>
          <tr className="quiet bg-base-200 text-left">
            <th className="px-2 py-1 font-normal">{table.separator === 'JSON' ? 'entry' : 'line'}</th>
            {table.columns.map((c, i) => (
              <th key={c + i} className="px-2 py-1 font-normal">
                {c}
                {FIELDS.filter((f) => mapping[f.key] === i).map((f) => (
                  <span key={f.key} className="block text-primary">
                    {f.label}
                  </span>
                ))}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.slice(0, PREVIEWED).map((r) => (
            <tr key={r.line}>
              <td className="quiet px-2">{r.line}</td>
              {r.cells.map((c, i) => (
                <td key={i} className="max-w-40 truncate px-2">
                  {c}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
