/** A file to choose, under its label. */
export function FileField({
  label,
  accept,
  onChoose,
}: {
  label: string;
  /** Endings that the browser offers first. */
  accept: string;
  onChoose: (file: File) => void;
}) {
  return (
    <label className="flex flex-col gap-1 font-semibold">
      {label}
      <input
        type="file"
        accept={accept}
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) onChoose(file);
        }}
        className="min-h-11 rounded-lg border border-edge bg-surface p-2 font-normal"
      />
    </label>
  );
}
