/** The mark of Plundra, drawn by the page itself: it is there also when the server is not. The same as public/mark.svg. */
export function Mark() {
  return (
    <svg className="mark" viewBox="0 0 32 32" aria-hidden="true">
      <rect width="32" height="32" rx="7" fill="#6D2E5B" />
      <path
        d="M5 20c3 0 3-8 6.5-8s3 9 6.5 9S22 9 27 9"
        fill="none"
        stroke="#FBF8F1"
        strokeWidth="2.6"
        strokeLinecap="round"
      />
      <path d="M5 25h22" stroke="#D9792B" strokeWidth="2.2" strokeLinecap="round" />
    </svg>
  );
}
