/** A place on a compass card: degrees clockwise from north, which is up, at a radius. */
export const onCard = (degrees: number, radius: number): [number, number] => [
  Math.sin((degrees * Math.PI) / 180) * radius,
  -Math.cos((degrees * Math.PI) / 180) * radius,
];
