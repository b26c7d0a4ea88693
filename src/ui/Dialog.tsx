import type { ReactNode } from 'react';
import { Dialog as Box } from 'react-aria-components/Dialog';
import { Heading } from 'react-aria-components/Heading';
import { Modal, ModalOverlay } from 'react-aria-components/Modal';
import styles from './Dialog.module.css';

interface Props {
  readonly open: boolean;
  readonly onClose: () => void;
  readonly title: string;
  /** Whose it is: a customer's mark, shown beside the title. */
  readonly mark?: ReactNode;
  readonly children: ReactNode;
  /** The buttons, the main one last. */
  readonly actions: ReactNode;
}

export function Dialog({ open, onClose, title, mark, children, actions }: Props) {
  return (
    <ModalOverlay
      isOpen={open}
      onOpenChange={(now) => !now && onClose()}
      isDismissable
      className={styles.overlay ?? ''}
    >
      <Modal className={styles.modal ?? ''}>
        <Box className={styles.box ?? ''}>
          <header>
            {mark}
            <Heading slot="title" className={styles.title ?? ''}>
              {title}
            </Heading>
          </header>
          <div className={styles.body}>{children}</div>
          <footer>{actions}</footer>
        </Box>
      </Modal>
    </ModalOverlay>
  );
}
