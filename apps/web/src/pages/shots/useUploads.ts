import { useCallback, useRef, useState } from 'react';
import { toast } from 'sonner';
import { Upload, type DetailedError } from 'tus-js-client';

export interface UploadItem {
  readonly key: string;
  readonly name: string;
  readonly sent: number;
  readonly total: number;
  readonly error: string | null;
}

/** Resumable uploads: a broken connection, or the same file chosen again later, goes on where it was. */
export function useUploads(onDone: () => void) {
  const [items, setItems] = useState<readonly UploadItem[]>([]);
  const running = useRef(new Map<string, Upload>());
  const change = (key: string, part: Partial<UploadItem> | null) =>
    setItems((all) =>
      part ? all.map((i) => (i.key === key ? { ...i, ...part } : i)) : all.filter((i) => i.key !== key),
    );

  const add = useCallback(
    (files: Iterable<File>) => {
      for (const file of files) {
        if (file.size === 0) {
          toast.error(`"${file.name}" is empty (0 bytes). Copy it again from the source.`);
          continue;
        }
        const key = crypto.randomUUID();
        setItems((all) => [...all, { key, name: file.name, sent: 0, total: file.size, error: null }]);
        const upload = new Upload(file, {
          endpoint: '/api/uploads',
          chunkSize: 16 * 1024 * 1024,
          retryDelays: [0, 500, 1500, 4000, 8000],
          removeFingerprintOnSuccess: true,
          metadata: { filename: file.name, filetype: file.type },
          onProgress: (sent, total) => change(key, { sent, total }),
          onSuccess: ({ lastResponse }) => {
            const { name, duplicate } = parse(lastResponse.getBody()) as {
              name?: string;
              duplicate?: boolean;
            };
            if (duplicate) toast.info(`This file is here already, as "${name ?? file.name}".`);
            running.current.delete(key);
            change(key, null);
            onDone();
          },
          onError: (error) => {
            const body = parse((error as DetailedError).originalResponse?.getBody() ?? '') as {
              message?: string;
            };
            change(key, {
              error:
                body.message ?? 'The connection broke. Choose the file again to go on from where it was.',
            });
          },
        });
        running.current.set(key, upload);
        void upload.findPreviousUploads().then((previous) => {
          if (previous.length > 0) upload.resumeFromPreviousUpload(previous[0]);
          upload.start();
        });
      }
    },
    [onDone],
  );

  const remove = useCallback((key: string) => {
    void running.current.get(key)?.abort();
    running.current.delete(key);
    change(key, null);
  }, []);

  return { items, add, remove };
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return {};
  }
}
