/** The sign of Lee Shore: water and the coast it runs to. */
export function Logo() {
  return (
    <svg width="42" height="20" viewBox="0 0 42 20" aria-hidden="true">
      <path
        d="M2 7c4-4 7 4 11 0s7 4 11 0 4-1 6-2M2 15c4-4 7 4 11 0s7 4 11 0"
        fill="none"
        stroke="#8fb8d1"
        strokeWidth="2"
      />
      <path d="M31 1h10v18H30c3-3-2-5 1-9s-2-5 0-9z" fill="#f3e7c6" />
    </svg>
  );
}
