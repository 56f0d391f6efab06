import { DATA_EXPORTS } from '@lurn/core';

/** What "lurn --help" prints. */
export const USAGE = `lurn track CLIP --marks MARKS.json [--from N] [--to N] [--out TRACKS.csv] [--corners CORNERS.csv] [--mesh MESH.json] [--shape] [--json]
    Tracks spots, flat and soft surfaces and writes their samples. Without --from and --to: forwards and backwards from the
    frame of each. With --shape, how a spot's patch turned and grew as well. --corners gets the four corners of every
    surface's quad, --mesh the mesh of every soft surface. --spots is another name of --marks.

lurn suggest CLIP [--frame N] [--count N] [--out MARKS.json] [--json]
    Marks on the surroundings that hold through the clip: each has been followed.

lurn movers CLIP [--out MOVERS.json] [--json]
    What moves as a whole in the clip, how, and where it is cut.

lurn steady CLIP (--marks MARKS.json | --tracks TRACKS.csv | --auto) [--hold NAME] --goal still|calm|lock [--ref N]
            [--use x,y,rotation,scale,perspective] [--smooth SECONDS] [--max-zoom RATIO] [--from N] [--to N] [--fit-zoom]
            [--row-by-row]
            [--edges colour|stretched|mirrored|borrowed|transparent] [--motion MOTION.json]
            [--out STEADY.mp4 [--format NAME] [--compare beside|above|wipe [--labels]]] [--crf N] [--json]
    With --marks what --hold names is a flat or soft surface; without it the spots are held, or the first surface where
    there are none. A soft surface is laid flat as it is on the reference
    frame, or to the rectangle that its mark names: "laid": { "corners": [[x, y] x 4], "straight": true or false }.
    With --use, only these parts of its motion are taken out. --auto: nothing is marked; the surroundings are held, or
    the mover that --hold names. With --row-by-row
    pictures that are read out row by row are put straight, where it is found how long that takes.
    Solves the motion, writes it and renders the steadied picture. Without --fit-zoom the size stays as it is.
    still: held as on the reference frame. lock: the tracked subject held where it is on the reference frame.
    calm: moves slower than --smooth (seconds, 1 when left out) are kept; with --max-zoom along the optimal path
    that needs no more zoom than that. --compare shows the picture as shot in the same file,
    --labels writes which is which into it.

lurn steady CLIP --shot SHOT [--picture steadied|as-shot] [--layers-alone] --out FILE [--format NAME] [--crf N] [--json]
    Renders a shot as it was saved as a file (the zip, or SHOT.json with its assets beside it), layers and all: steadied,
    or as it was shot with the layers carried back.

lurn watch FOLDER --out FOLDER [--goal calm|still] [--format NAME] [--crf N] [--once] [--json]
    Steadies and renders every clip that appears in a folder, by its surroundings, with the zoom that hides the edges, and
    writes what came of each into report.csv. With --once it does what is there, and ends.

lurn conform (CLIP | FOLDER | FILE.zip) --out CLIP.mkv [--rate N] [--json]
    Makes a clip without loss: of pictures (PNG, JPEG, TIFF or EXR, with a sound file if there is one) at --rate a second,
    25 when left out; of an interlaced clip, whose fields are put together; or of any other at a constant --rate.

lurn formats [--json]
    The kinds of file that --format may name.

lurn hand-over (MOTION.json | CORNERS.csv | TRACKS.csv | MOVERS.json) --as NAME --out FILE
            [--origin top-left|bottom-left|centre] [--y down|up] [--unit px|share] [--first N]
            [--time seconds|timecode] [--numbers matrix|ratio|percent] [--size WxH] [--fps N]
            [--in-origin ...] [--in-y ...] [--in-unit ...] [--in-first N] [--json]
    Writes motion, corners, spots or movers as another program wants them: --as ${DATA_EXPORTS.map((e) => e.id).join(', ')}.
    --origin, --y, --unit, --first, --time: how that program counts, where the format leaves it open; --numbers: a motion
    as matrices, or as position, rotation and scale, that as a ratio or in per cent; --in-origin and so on: how the file that is read counts. --size and --fps where a table does not tell them. ST maps go into a folder, or
    into FILE.zip.

Exit status: 0 done, 1 the input is at fault, 2 wrong usage, 3 a fault of the program, 130 stopped.
`;
