import { useMemo, useRef, useState } from 'react';
import {
  guessMapping,
  readSampleTable,
  samplesFromTable,
  type ColumnMapping,
  type ImportedSpot,
  type SampleTable,
} from '@lurn/core/formats';
import type { ClipInfo } from '@lurn/model';
import { motionInMaps, motionInText, type BroughtIn } from '../../../state/import-motion';
import { readMaps } from '../../../workers/open-maps';
import { useBenchParts } from '../../../state/bench';

/** No file of samples is as large. */
const LARGEST = 50e6;

const nameOf = (file: string) => file.replace(/\.[^.]*$/, '').slice(0, 50) || 'imported';

/** Motion in a format of this program; null for what is to be read by its columns. */
function motionOf(text: string, info: ClipInfo): BroughtIn | null {
  try {
    return motionInText(text, info);
  } catch (error) {
    // Another program's table is no fault of it; JSON of motion has no columns.
    if (/^\s*\{/.test(text) && /"(motion|movers|surfaces|OTIO_SCHEMA)"/.test(text)) throw error;
    return null;
  }
}

export interface SampleFile {
  readonly name: string;
  readonly table: SampleTable;
}

/** A chosen file of samples: its table, which column is what, and what comes of it or what is wrong with it. */
export function useSampleFile() {
  const { info } = useBenchParts('info');
  const [file, setFile] = useState<SampleFile | null>(null);
  const [mapping, setMapping] = useState<ColumnMapping | null>(null);
  const [firstFrame, setFirstFrame] = useState(0);
  const [motion, setMotion] = useState<BroughtIn | null>(null);
  const [reading, setReading] = useState(false);
  const latest = useRef<File | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  const result = useMemo((): { spots: ImportedSpot[] } | { fault: string } | null => {
    if (!file || !mapping) return null;
    try {
      return { spots: samplesFromTable(file.table, mapping, info, firstFrame, nameOf(file.name)) };
    } catch (error) {
      return { fault: (error as Error).message };
    }
  }, [file, mapping, info, firstFrame]);

  const choose = async (chosen: File | undefined) => {
    if (!chosen) return;
    // What was chosen before may still be read: it must not come in its place.
    latest.current = chosen;
    const stands = () => latest.current === chosen;
    setReading(false);
    setFile(null);
    setFailure(null);
    setMotion(null);
    if (/\.zip$/i.test(chosen.name)) {
      setReading(true);
      try {
        const { width, height } = info;
        const read = await readMaps(chosen, { width, height });
        const found = motionInMaps(read, nameOf(chosen.name), info);
        if (stands()) setMotion(found);
      } catch (error) {
        if (stands()) setFailure((error as Error).message);
      }
      if (stands()) setReading(false);
      return;
    }
    if (chosen.size > LARGEST) {
      const size = Math.round(chosen.size / 1e6);
      setFailure(`${chosen.name} has ${size} MB; files of samples are far smaller. Is it the right one?`);
      return;
    }
    try {
      const text = await chosen.text();
      if (!stands()) return;
      const found = motionOf(text, info);
      if (found) {
        setMotion(found);
        return;
      }
      const table = readSampleTable(text);
      setFile({ name: chosen.name, table });
      setMapping(guessMapping(table));
    } catch (error) {
      if (stands()) setFailure((error as Error).message);
    }
  };
  return {
    ...{ file, mapping, setMapping, firstFrame, setFirstFrame, choose, motion, reading },
    spots: result && 'spots' in result ? result.spots : null,
    fault: failure ?? (result && 'fault' in result ? result.fault : null),
  };
}
