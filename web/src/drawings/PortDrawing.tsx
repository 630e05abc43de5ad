import type { PortLink } from "../api/schema";

/** Numbered leads of the antenna on the left, the gateway's ports on the right, and which goes where. */
export function PortDrawing({
  leads,
  ports,
  links,
}: {
  leads: number;
  ports: { name: string; note: string; second?: string }[];
  links: PortLink[];
}) {
  const row = 44;
  const rows = Math.max(leads, ports.length);
  const y = (index: number, count: number) => 22 + (index + (rows - count) / 2) * row;
  const words = links.map((link) => `lead ${link.lead} to port ${link.port}`).join(", ");
  return (
    <svg
      viewBox={`0 0 440 ${rows * row}`}
      role="img"
      aria-label={words === "" ? "No lead is plugged in" : words}
      className="w-full max-w-md"
    >
      {links.map((link) => {
        const at = ports.findIndex((port) => port.name === link.port);
        if (at < 0) return null;
        const [from, to] = [y(link.lead - 1, leads), y(at, ports.length)];
        return (
          <path
            key={link.lead}
            d={`M96 ${from} C160 ${from} 160 ${to} 224 ${to}`}
            className="fill-none stroke-structure"
            strokeWidth="3.5"
          />
        );
      })}
      {Array.from({ length: leads }, (_, index) => {
        const lead = index + 1;
        return (
          <g key={lead} transform={`translate(0 ${y(index, leads)})`}>
            <text x="0" dy="0.35em" className="fill-muted text-[14px]">
              lead
            </text>
            <circle cx="80" r="16" className="fill-ground stroke-structure" strokeWidth="3" />
            <text x="80" dy="0.35em" textAnchor="middle" className="fill-ink text-[17px] font-bold">
              {lead}
            </text>
          </g>
        );
      })}
      {ports.map((port, index) => (
        <g key={port.name} transform={`translate(0 ${y(index, ports.length)})`}>
          <rect
            x="224"
            y="-15"
            width="46"
            height="30"
            rx="4"
            className="fill-ground stroke-ink"
            strokeWidth="2.5"
          />
          <text x="247" dy="0.35em" textAnchor="middle" className="fill-ink text-[16px] font-bold">
            {port.name}
          </text>
          <text x="280" dy={port.second ? "-0.2em" : "0.35em"} className="fill-muted text-[14px]">
            {port.note}
          </text>
          {port.second && (
            <text x="280" dy="1em" className="fill-muted text-[14px]">
              {port.second}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}
