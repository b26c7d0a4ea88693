declare module 'parse-prometheus-text-format' {
  /** Reads figures as text into families. */
  export default function parse(text: string): unknown;
}
