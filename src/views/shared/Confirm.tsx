import { lazy, Suspense, type ComponentProps } from 'react';

/** Fetched when it is first opened. */
const ChangeDialog = lazy(() => import('./ChangeDialog'));

type Props = ComponentProps<typeof ChangeDialog>;

/** A change that is about to be made, in its dialog; closed too once it has begun, where its run is not gone to. */
export function Confirm({ onBegun, onClose, ...props }: Props) {
  return (
    <Suspense>
      <ChangeDialog
        {...props}
        onClose={onClose}
        {...(onBegun
          ? {
              onBegun: (run: string) => {
                onClose();
                onBegun(run);
              },
            }
          : {})}
      />
    </Suspense>
  );
}
