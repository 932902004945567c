import { useState } from "react";
import { Link } from "wouter";
import type { Position } from "../api";

const WIDTH = 1000;
const HEIGHT = 560;
const MARGIN = 40;

type Placed = Position & { x: number; y: number };

/** Positions on a plain grid of latitude and longitude; nothing is fetched from anywhere for it. */
export function PlainMap({ positions }: { positions: Position[] }) {
  const [over, setOver] = useState<Placed | null>(null);
  const longitudes = positions.map((one) => one.geometry.coordinates[0]);
  const latitudes = positions.map((one) => one.geometry.coordinates[1]);
  const [west, east] = [Math.min(...longitudes), Math.max(...longitudes)];
  const [south, north] = [Math.min(...latitudes), Math.max(...latitudes)];
  const middle = Math.cos((((south + north) / 2) * Math.PI) / 180);
  const scale = Math.min(
    (WIDTH - 2 * MARGIN) / Math.max((east - west) * middle, 1e-4),
    (HEIGHT - 2 * MARGIN) / Math.max(north - south, 1e-4),
  );
  const x = (longitude: number) => WIDTH / 2 + (longitude - (west + east) / 2) * middle * scale;
  const y = (latitude: number) => HEIGHT / 2 - (latitude - (south + north) / 2) * scale;
  const placed: Placed[] = positions.map((one) => ({
    ...one,
    x: x(one.geometry.coordinates[0]),
    y: y(one.geometry.coordinates[1]),
  }));
  const step = niceStep((north - south) / 4);
  const lines = (from: number, to: number) =>
    Array.from({ length: Math.floor(to / step) - Math.ceil(from / step) + 1 }, (_, i) =>
      Number(((Math.ceil(from / step) + i) * step).toFixed(6)),
    );
  return (
    <div className="px-4 py-3">
      <p className="mb-2 flex gap-5 text-[13px] text-ink-soft">
        <span>
          <svg viewBox="0 0 12 12" className="mr-1 inline size-3" aria-hidden="true">
            <circle cx="6" cy="6" r="4" fill="var(--accent)" />
          </svg>
          device
        </span>
        <span>
          <svg viewBox="0 0 12 12" className="mr-1 inline size-3" aria-hidden="true">
            <path d="M6 1 11 11H1z" fill="none" stroke="var(--wait)" strokeWidth="1.6" />
          </svg>
          gateway
        </span>
        <span className="ml-auto" role="status">
          {over &&
            `${over.properties.type} ${over.properties.name}: ${over.geometry.coordinates[1]}, ${over.geometry.coordinates[0]}${over.properties.gateway ? `, heard by ${over.properties.gateway}` : ""}`}
        </span>
      </p>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="max-h-[38rem] w-full rounded bg-inset"
        role="img"
        aria-label={`Map of ${positions.length} positions`}
      >
        {lines(west, east).map((longitude) => (
          <g key={`x${longitude}`}>
            <line x1={x(longitude)} x2={x(longitude)} y1={0} y2={HEIGHT} stroke="var(--rule)" />
            <text x={x(longitude) + 4} y={HEIGHT - 6} fontSize="11" fill="var(--ink-faint)">
              {longitude.toFixed(3)}°
            </text>
          </g>
        ))}
        {lines(south, north).map((latitude) => (
          <g key={`y${latitude}`}>
            <line x1={0} x2={WIDTH} y1={y(latitude)} y2={y(latitude)} stroke="var(--rule)" />
            <text x={4} y={y(latitude) - 4} fontSize="11" fill="var(--ink-faint)">
              {latitude.toFixed(3)}°
            </text>
          </g>
        ))}
        {placed.map((one) =>
          one.properties.type === "gateway" ? (
            // biome-ignore lint/a11y/noStaticElementInteractions: hovering only repeats what the text beside it says
            <g key={`g${one.properties.name}`} onMouseEnter={() => setOver(one)}>
              <path
                d={`M${one.x} ${one.y - 9} ${one.x + 9} ${one.y + 7}H${one.x - 9}z`}
                fill="var(--sheet)"
                stroke="var(--wait)"
                strokeWidth="2"
              />
              <text
                x={one.x}
                y={one.y + 21}
                fontSize="12"
                textAnchor="middle"
                fill="var(--ink)"
                stroke="var(--inset)"
                strokeWidth="4"
                paintOrder="stroke"
              >
                {one.properties.name}
              </text>
            </g>
          ) : (
            <Link
              key={`d${one.properties.name}`}
              href={`/devices/${encodeURIComponent(one.properties.name)}`}
              onMouseEnter={() => setOver(one)}
              onFocus={() => setOver(one)}
              aria-label={`Device ${one.properties.name}`}
            >
              <circle cx={one.x} cy={one.y} r={5} fill="var(--accent)" stroke="var(--sheet)" />
            </Link>
          ),
        )}
      </svg>
    </div>
  );
}

/** A step of 1, 2 or 5 times a power of ten. */
function niceStep(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(rough, 1e-5)));
  const factor = [1, 2, 5, 10].find((one) => one * power >= rough) ?? 10;
  return factor * power;
}
