import { FileUp } from 'lucide-react';
import styles from './FilePick.module.css';

interface Props {
  /** What to choose, while nothing is. */
  readonly label: string;
  readonly help: string;
  /** Of what is chosen. */
  readonly name: string | undefined;
  /** Endings and types, as the platform's `accept` has them. */
  readonly accept: string;
  readonly isDisabled?: boolean;
  /** Told each time, of the same file too: it may have been mended meanwhile. */
  readonly onChoose: (file: File) => void;
}

/** A file of the person's own, chosen by press or dropped. */
export function FilePick({ label, help, name, accept, isDisabled = false, onChoose }: Props) {
  return (
    <label
      className={styles.pick}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault();
        const [file] = event.dataTransfer.files;
        if (file && !isDisabled) onChoose(file);
      }}
    >
      <FileUp size={22} aria-hidden="true" />
      <span>{name ?? label}</span>
      <small>{help}</small>
      <input
        type="file"
        accept={accept}
        className="sr"
        disabled={isDisabled}
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) onChoose(file);
          event.target.value = '';
        }}
      />
    </label>
  );
}
