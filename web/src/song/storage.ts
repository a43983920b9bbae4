/**
 * The browser's small storage for what can be done without. A browser that blocks site data throws at every touch of it;
 * then nothing is remembered and everything else works.
 */
function from(kind: 'localStorage' | 'sessionStorage') {
  return {
    read(key: string): string | null {
      try {
        return window[kind].getItem(key);
      } catch {
        return null;
      }
    },
    /** Keys that begin with a word. */
    keys(prefix: string): string[] {
      try {
        return Object.keys(window[kind]).filter((key) => key.startsWith(prefix));
      } catch {
        return [];
      }
    },
    write(key: string, value: string | null): void {
      try {
        if (value === null) window[kind].removeItem(key);
        else window[kind].setItem(key, value);
      } catch {
        // Blocked or full.
      }
    },
  };
}

/** For this browser. */
export const browserMemory = from('localStorage');
/** For this window. */
export const windowMemory = from('sessionStorage');
