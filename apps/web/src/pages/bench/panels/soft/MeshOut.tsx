import { strToU8, zipSync } from 'fflate';
import {
  meshGltf,
  meshObj,
  softPlaces,
  tracksOfMesh,
  writeMeshes,
  writeTracks,
  type NamedMesh,
} from '@lurn/core';
import { meshOf, softOf, softShape, softTrackOf, type SoftSurface } from '@lurn/model';
import { keepFile } from '../../../../lib/keep-file';
import { useBenchParts } from '../../../../state/bench';
import { useShot } from '../../../../state/shot';
import { Hint, Section } from '../Section';

/** The meshes of soft surfaces with their motion, as files. */
export function MeshOut() {
  const { selected, clip, info, times } = useBenchParts('selected', 'clip', 'info', 'times');
  const { document, measured } = useShot((s) => s.state);
  const tracked = softOf(document).filter((s) => measured[s.id]);
  if (tracked.length === 0) return null;
  const chosen = tracked.find((s) => selected.includes(s.id)) ?? tracked[0];
  const named = (s: SoftSurface): NamedMesh => ({
    ...{ name: s.name, frame: s.frame, mesh: meshOf(s), track: softTrackOf({ measured }, s.id) },
  });
  /** Every frame on which it is known, with its points, those that have ended with the others. */
  const frames = () => {
    const track = softTrackOf({ measured }, chosen.id);
    const shape = softShape(chosen, track);
    return Array.from(track.state, (_, i) => track.start + i).flatMap((frame) => {
      const places = softPlaces(shape, frame);
      return places ? [{ frame, time: times[frame], places }] : [];
    });
  };
  const objects = () =>
    zipSync(
      Object.fromEntries(
        frames().map(({ frame, places }) => [
          `${String(frame).padStart(6, '0')}.obj`,
          strToU8(meshObj(named(chosen), places, info)),
        ]),
      ),
    );
  const tracks = () => {
    const list = tracksOfMesh(softTrackOf({ measured }, chosen.id));
    return writeTracks(list.map((track, v) => ({ name: `${chosen.name} ${v}`, track })), times); // prettier-ignore
  };
  return (
    <Section title={`Mesh of ${chosen.name}`}>
      <div className="grid grid-cols-2 gap-1.5">
        <button
          type="button"
          className="btn btn-sm"
          title="Every mesh, its points on each frame in source pixels"
          onClick={() =>
            keep(`${clip.name} meshes.json`, 'application/json', writeMeshes(tracked.map(named)))
          }
        >
          Save as JSON
        </button>
        <button
          type="button"
          className="btn btn-sm"
          title="One OBJ a frame, y up, in pixels, with the picture of its own frame as texture places"
          onClick={() => keep(`${clip.name} ${chosen.name}.zip`, 'application/zip', objects())}
        >
          OBJ sequence
        </button>
        <button
          type="button"
          className="btn btn-sm"
          title="A morph target a frame, shown one after the other; y up, in pixels"
          onClick={() =>
            keep(
              `${clip.name} ${chosen.name}.gltf`,
              'model/gltf+json',
              meshGltf(named(chosen), frames(), info),
            )
          }
        >
          glTF
        </button>
        <button
          type="button"
          className="btn btn-sm"
          title="Every point as a track"
          onClick={() => keep(`${clip.name} ${chosen.name}.csv`, 'text/csv', tracks())}
        >
          Points as CSV
        </button>
      </div>
      <Hint>Points that have ended are left out of the JSON; in OBJ and glTF they go with the others.</Hint>
    </Section>
  );
}

const keep = (name: string, type: string, data: string | Uint8Array) =>
  keepFile(name, new Blob([data as BlobPart], { type }));
