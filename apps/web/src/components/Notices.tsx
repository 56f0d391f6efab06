import type { CSSProperties } from 'react';
import { Toaster } from 'sonner';

/** Where messages come up. @param offset  from the lower rim of what they lie on, in pixels */
export function Notices({ offset, style }: { readonly offset: number; readonly style?: CSSProperties }) {
  return (
    <Toaster
      position="bottom-center"
      offset={{ bottom: offset }}
      toastOptions={{ className: 'notice' }}
      style={style}
    />
  );
}
