/** A small compass rose with the aim in it; north is up. Without an azimuth only the ring is drawn. */
export function AimGlyph({
  azimuth,
  external,
  size = 22,
}: {
  azimuth: number | null;
  external: boolean;
  size?: number;
}) {
  return (
    <svg viewBox="0 0 24 24" width={size} height={size} aria-hidden="true" className="shrink-0">
      <circle cx="12" cy="12" r="10.2" fill="none" stroke="var(--edge)" strokeWidth="1.2" />
      <path d="M12 1.8 V4.6" stroke="var(--ink)" strokeWidth="1.6" />
      {azimuth !== null && (
        <g transform={`rotate(${azimuth} 12 12)`}>
          {external ? (
            <path d="M12 12 L8.2 3.6 A9.2 9.2 0 0 1 15.8 3.6 Z" fill="var(--lamp)" />
          ) : (
            <path d="M12 12 V3.4" stroke="var(--lamp)" strokeWidth="2.4" />
          )}
        </g>
      )}
      <circle cx="12" cy="12" r="1.9" fill="var(--ink)" />
    </svg>
  );
}
