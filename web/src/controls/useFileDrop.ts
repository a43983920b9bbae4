import { useRef, useState, type DragEvent } from 'react';

/** Takes files that are dropped anywhere on an element; `dropping` is true while some hover over it. */
export function useFileDrop(onFiles: (files: File[]) => void) {
  const [dropping, setDropping] = useState(false);
  const depth = useRef(0);
  const holdsFiles = (event: DragEvent) => event.dataTransfer.types.includes('Files');
  return {
    dropping,
    dropProps: {
      onDragEnter(event: DragEvent) {
        if (!holdsFiles(event)) return;
        depth.current++;
        setDropping(true);
      },
      onDragOver(event: DragEvent) {
        if (holdsFiles(event)) event.preventDefault();
      },
      onDragLeave() {
        depth.current = Math.max(0, depth.current - 1);
        if (depth.current === 0) setDropping(false);
      },
      onDrop(event: DragEvent) {
        if (!holdsFiles(event)) return;
        event.preventDefault();
        depth.current = 0;
        setDropping(false);
        onFiles([...event.dataTransfer.files]);
      },
    },
  };
}
