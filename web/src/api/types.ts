// Made from the Rust types by `make types`; do not edit.

import type { ObjectSchema } from './schema'

/**
 * Another picture to compare with.
 */
export type Against = { 
/**
 * What it is.
 */
other: Other, 
/**
 * Factor on the difference.
 */
gain: number, };

/**
 * What the light falls on.
 */
export type AlbedoFrom = "pass" | "picture";

/**
 * Whether colour was multiplied by coverage.
 */
export type AlphaState = "premultiplied" | "straight";

/**
 * A shot with a preset on one of its elements.
 */
export type Applied = { 
/**
 * The shot.
 */
shot: Shot, 
/**
 * Numbers of the new steps.
 */
steps: Array<number>, 
/**
 * What did not fit, in sentences.
 */
missing: Array<string>, };

/**
 * Where a preset is put.
 */
export type ApplyPreset = { 
/**
 * The document as it stands.
 */
shot: Draft, 
/**
 * Element.
 */
element: number, 
/**
 * What becomes of lengths on letters of another height.
 */
lengths?: Lengths, };

/**
 * What of a shot in the list changes; what is not said stays.
 */
export type Arrange = { 
/**
 * Its name.
 */
name?: string, 
/**
 * Whether it is out of the way.
 */
put_away?: boolean, 
/**
 * Whether it is deleted.
 */
deleted?: boolean, };

/**
 * A file that arrived.
 */
export type Arrived = { 
/**
 * What to name it by when a shot is made of it.
 */
file: MediaFile, 
/**
 * Its format in words.
 */
format: string, 
/**
 * Frame, px.
 */
width: number, 
/**
 * Frame, px.
 */
height: number, 
/**
 * What was noted while reading.
 */
notes: Array<string>, };

/**
 * What is asked about a driven parameter over time.
 */
export type AskCourse = { 
/**
 * The shot.
 */
shot: Draft, 
/**
 * Address of the parameter.
 */
at: string, 
/**
 * First frame.
 */
from: number, 
/**
 * Last frame.
 */
to: number, };

/**
 * A track to be followed through frames.
 */
export type AskFollow = { 
/**
 * The element.
 */
element: number, 
/**
 * Number of the track.
 */
track: number, 
/**
 * First and last frame; all of the shot's if not said.
 */
frames?: FrameRange, };

/**
 * Asks for a range of frames.
 */
export type AskJob = { 
/**
 * What is written of each.
 */
wish: Wish, 
/**
 * The frames.
 */
range: FrameRange, };

/**
 * What is asked about a texture that is laid on something.
 */
export type AskLaid = { 
/**
 * The shot.
 */
shot: Draft, 
/**
 * The element.
 */
element: number, 
/**
 * What lays it.
 */
layer: Layer, 
/**
 * The frame; the first if not said.
 */
frame?: number, 
/**
 * Whether places are told as the shot shows them, and not as the render has them.
 */
placed?: boolean, 
/**
 * A place that is looked for on the other side, where one is asked for.
 */
at?: LaidAt, };

/**
 * Whose light is wanted.
 */
export type AskLight = { 
/**
 * The document as it stands.
 */
shot: Draft, 
/**
 * Element.
 */
element: number, 
/**
 * Frame; the first if not said.
 */
frame?: number, };

/**
 * Asks what pictures of some frames would be called.
 */
export type AskNames = { 
/**
 * How each is seen; its own frame does not matter.
 */
look: Look, 
/**
 * The first frame.
 */
from: number, 
/**
 * The last frame.
 */
to: number, };

/**
 * Asks for one pixel over some frames.
 */
export type AskPixels = { 
/**
 * Of what.
 */
target: Target, 
/**
 * Column, full-resolution px.
 */
x: number, 
/**
 * Row, full-resolution px.
 */
y: number, 
/**
 * The first frame.
 */
from: number, 
/**
 * The last frame.
 */
to: number, 
/**
 * Who asks; a newer question of the same one cancels this one.
 */
viewer: string | null, };

/**
 * A height or normals on a simple body.
 */
export type AskShape = { 
/**
 * The document as it stands.
 */
shot: Draft, 
/**
 * Frame; the first if not said.
 */
frame?: number, 
/**
 * What is to be seen.
 */
how: OnShape, 
/**
 * Who asks: a newer question of the same stops this one.
 */
viewer?: string, };

/**
 * What is asked about a step, or about an element by itself.
 */
export type AskTold = { 
/**
 * The shot.
 */
shot: Draft, 
/**
 * The element.
 */
element: number, 
/**
 * The step, if about one.
 */
step?: number, 
/**
 * The frame; the first if not said.
 */
frame?: number, };

/**
 * What moves over time, at a frame.
 */
export type AtFrame = { 
/**
 * Values of what is driven.
 */
driven: Array<DrivenValue>, 
/**
 * Sentences of the steps.
 */
sentences: Array<Sentence>, };

/**
 * A stored channel with a sign.
 */
export type Axis = "x" | "-x" | "y" | "-y" | "z" | "-z";

/**
 * What lies behind a transparent picture.
 */
export type Backdrop = "grey" | "black" | "white" | "checker" | "loud";

/**
 * Parameters of Bevel.
 */
export type Bevel = { 
/**
 * What comes out.
 */
gives: BevelGives, 
/**
 * How wide the bevel is.
 */
width: number, 
/**
 * How high it rises, in widths; negative sinks.
 */
height: number, 
/**
 * How it rises.
 */
profile: Profile, 
/**
 * The profile from its lower end to its upper, over its width.
 */
drawn: Array<CurvePoint>, 
/**
 * On which side of the edge it lies.
 */
side: Side, 
/**
 * Beyond a corner it goes around it, or its sides go on until they meet in a ridge.
 */
corners: Corners, 
/**
 * Blur of its slopes: rounder ridges.
 */
soft: number, };

/**
 * What comes out.
 */
export type BevelGives = "normals" | "height";

/**
 * What lies beyond the texture's own square.
 */
export type Beyond = "nothing" | "tiles" | "mirrored" | "border";

/**
 * How a change meets what was there. W3C names.
 */
export type BlendMode = "normal" | "add" | "screen" | "multiply" | "overlay" | "subtract" | "darken" | "lighten" | "color_dodge" | "color_burn" | "hard_light" | "soft_light" | "difference" | "exclusion" | "hue" | "saturation" | "color" | "luminosity";

/**
 * The encoding in which a blend function sees the values.
 */
export type BlendSpace = "linear" | "display";

/**
 * Parameters of Blur.
 */
export type Blur = { 
/**
 * What a point becomes.
 */
form: BlurForm, 
/**
 * Half its width; of a soft spot twice its standard deviation.
 */
size: number, 
/**
 * How the line lies: 0° level, 90° upright.
 */
angle: number, };

/**
 * How the size of the blur is said.
 */
export type BlurBy = "pixels" | "lens";

/**
 * What a point becomes.
 */
export type BlurForm = "gaussian" | "box" | "line";

/**
 * A place with the blur that it has.
 */
export type BlurPoint = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Where it is, full-resolution px.
 */
at: [number, number], 
/**
 * The blur there: twice the standard deviation.
 */
size: number, };

/**
 * A revision that is brought back.
 */
export type BringBack = { 
/**
 * Where the shot stands.
 */
base: number, };

/**
 * A shot that was brought in.
 */
export type BroughtIn = { 
/**
 * Number of the new shot.
 */
id: string, };

/**
 * Painted.
 */
export type BrushPart = { 
/**
 * The strokes, in order.
 */
strokes: Array<PaintedStroke>, };

/**
 * Parameters of Normals with relief.
 */
export type BumpNormals = { 
/**
 * What the relief comes from.
 */
from: ReliefFrom, 
/**
 * The normal map, by the number of its pass.
 */
map?: number | null, 
/**
 * How high a step of 1 is, full-resolution px.
 */
strength: number, 
/**
 * How strongly the map turns the normals.
 */
share: number, };

/**
 * How an element stands in one space with those below it.
 */
export type ByDepth = { 
/**
 * How far away an element is that has no depth of its own, scene units.
 */
at: number, 
/**
 * How much nearer than its depth says it is taken to be, scene units.
 */
nearer: number, };

/**
 * A pinhole camera, in full-resolution px of the display window.
 */
export type Camera = { 
/**
 * Focal length, px (focal length ÷ sensor width × picture width).
 */
focal: number, 
/**
 * Where the view axis meets the picture, px from the left.
 */
centre_x: number, 
/**
 * Where the view axis meets the picture, px from the top.
 */
centre_y: number, 
/**
 * Rows of the 3×4 matrix from the world into camera space (column vectors), where it is known.
 */
world?: Array<number>, };

/**
 * Parameters of Motion of the camera.
 */
export type CameraMotion = { 
/**
 * Between which frames the motion is measured.
 */
over: MeasuredOver, };

/**
 * Parameters of Cast a shadow.
 */
export type CastShadow = { 
/**
 * The element that throws the shadow.
 */
element: number | null, 
/**
 * Toward the light.
 */
toward: [number, number, number], 
/**
 * What the light stays with while the camera goes. In the scene it is told as the camera of the first frame sees it.
 */
stays: StaysWith, 
/**
 * How wide the light is, seen from the surface: edges of the shadow are soft by it.
 */
width: number, 
/**
 * How much of the light is kept off where the shadow is full.
 */
darkness: number, 
/**
 * What is left where the shadow is full, beside what the darkness leaves.
 */
tint: [number, number, number], 
/**
 * Most that things are taken to be thick behind what is seen of them: a share of their depth.
 */
thickness: number, };

/**
 * What shall become of a job.
 */
export type ChangeJob = "pause" | "stop" | "go_on" | "try_again" | "first";

/**
 * Which of its channels.
 */
export type Channel = "all" | "x" | "y" | "z";

/**
 * Parameters of Choke and refill.
 */
export type Choke = { 
/**
 * How far the edge is drawn in; grown if negative.
 */
by: number, 
/**
 * How far the new edge is softened.
 */
soft: number, 
/**
 * How far inside of the old edge colours are trusted; those of the rim are made of them.
 */
rim: number, };

/**
 * A finding whose remedy shall be taken, by its pass and kind.
 */
export type Chosen = { 
/**
 * Number of the pass.
 */
pass: number, 
/**
 * What was found.
 */
kind: FindingKind, };

/**
 * A pass that a step chose, by what can be found again elsewhere.
 */
export type ChosenPass = { 
/**
 * Its number where the preset was saved.
 */
pass: number, 
/**
 * What it meant.
 */
role: Role, 
/**
 * Its name.
 */
name: string, };

/**
 * Parameters of Clay.
 */
export type Clay = { 
/**
 * How far around a place things hide the sky.
 */
reach: number, 
/**
 * How strongly what is hidden darkens.
 */
occlusion: number, 
/**
 * Directions in which the horizon is looked for: more are calmer and slower.
 */
directions: number, 
/**
 * How much more light comes from above than from below.
 */
sky: number, 
/**
 * Reflectance.
 */
grey: number, };

/**
 * Parameters of Colour.
 */
export type Colour = { 
/**
 * Power about the pivot.
 */
contrast: number, 
/**
 * The value that contrast leaves as it is.
 */
pivot: number, 
/**
 * Added to everything: positive lifts the blacks.
 */
lift: number, 
/**
 * Factors of the channels.
 */
gain: [number, number, number], 
/**
 * From grey to vivid.
 */
saturation: number, 
/**
 * Warmer or cooler white.
 */
warmth: number, 
/**
 * A colour that is mixed in.
 */
tint: [number, number, number], 
/**
 * How much of the tint.
 */
tinted: number, 
/**
 * Turns hues: 120° makes red green.
 */
turn: number, 
/**
 * Saturation of the hues that are turned.
 */
vivid: number, 
/**
 * Which hue it is about: 0° red, 120° green, 240° blue.
 */
middle: number, 
/**
 * How wide a range of hues is fully turned; 360° is all of them.
 */
width: number, 
/**
 * Over how many degrees on either side it fades.
 */
soft: number, };

/**
 * What gives a lamp its colour.
 */
export type ColourFrom = "colour" | "kelvin";

/**
 * The encoding and primaries of a stored picture.
 */
export type ColourSpace = "linear" | "srgb" | "rec709" | "acescg";

/**
 * A colour between the first and the second.
 */
export type ColourStop = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Where it stands on the way from the first colour to the second.
 */
at: number, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * How opaque it is.
 */
opacity: number, };

/**
 * How a further matte joins those before it. Largest and smallest of two values, so that two mattes of one edge
 * leave it as soft as it was (fuzzy union, intersection and difference, Zadeh 1965).
 */
export type Combine = "or" | "and" | "minus";

/**
 * Asks how far two pictures are apart.
 */
export type Compare = { 
/**
 * The picture.
 */
target: Target, 
/**
 * Frame; the first if not said.
 */
frame?: number, 
/**
 * The other.
 */
other: Other, };

/**
 * The convention of a pass. Fields that do not concern its role are ignored.
 */
export type Convention = { 
/**
 * Colour: encoding and primaries.
 */
colour: ColourSpace, 
/**
 * Colour: primaries that the file names, in the place of those of `colour`.
 */
primaries?: Primaries, 
/**
 * Colour: the power that decodes it, in the place of the curve of `colour`.
 */
gamma?: number, 
/**
 * Beauty: alpha.
 */
alpha: AlphaState, 
/**
 * Data: a curve to take off.
 */
curve: Curve, 
/**
 * Normals: coding.
 */
normal: NormalCoding, 
/**
 * Normals and position: space.
 */
space: Space, 
/**
 * Normals and position: which stored channel is right, up, and toward the viewer.
 */
axes: Array<Axis>, 
/**
 * Depth: what it measures.
 */
depth: DepthMeasure, 
/**
 * Depth: how it is stored.
 */
depth_coding: DepthCoding, 
/**
 * Depth of 0..1: where the range begins, scene units.
 */
near: number, 
/**
 * Depth of 0..1: where the range ends, scene units.
 */
far: number, 
/**
 * Depth and position: scene units for a stored unit.
 */
unit: number, 
/**
 * Depth and position: the stored value that means "nothing here".
 */
background: number | null, 
/**
 * UV and ST map: where v = 0 lies; from the bottom, offsets run up.
 */
uv_origin: UvOrigin, 
/**
 * Coordinate map: what it holds.
 */
map_holds: MapHolds, 
/**
 * UV: what becomes of coordinates outside 0..1.
 */
uv_wrap: Wrap, 
/**
 * Motion: unit.
 */
motion_unit: MotionUnit, 
/**
 * Motion: coding; 0..1 means ½ for no motion.
 */
motion_coding: NormalCoding, 
/**
 * Motion: factors on both axes.
 */
motion_scale: [number, number], 
/**
 * Motion: which way the second axis runs.
 */
motion_y: MotionY, 
/**
 * Motion: what it leads to.
 */
motion_time: MotionTime, };

/**
 * Parameters of Coordinate map.
 */
export type CoordinateMap = { 
/**
 * A pass of the element, or a file.
 */
from: MapFrom, 
/**
 * The file: 32-bit float, as large as the frame or larger.
 */
file?: MediaFile | null, 
/**
 * What its two channels hold.
 */
holds: MapHolds, 
/**
 * Where its second channel is 0, or which way its offsets run.
 */
origin: UvOrigin, 
/**
 * Each pixel from where the map says, or that undone.
 */
goes: MapWay, 
/**
 * How the picture is read between its pixels.
 */
filter: Kernel, };

/**
 * What lies beyond a corner of an edge.
 */
export type Corners = "round" | "mitred";

/**
 * The element itself: its alpha.
 */
export type CoveragePart = Record<symbol, never>;

/**
 * Parameters of Curvature.
 */
export type Curvature = { 
/**
 * Length over which the bend is measured, full-resolution px.
 */
over: number, 
/**
 * Factor.
 */
gain: number, };

/**
 * A curve that was wrongly put on data, and is taken off.
 */
export type Curve = "none" | "srgb_applied" | "srgb_removed";

/**
 * A point of a curve.
 */
export type CurvePoint = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * A value before.
 */
x: number, 
/**
 * What it becomes.
 */
y: number, };

/**
 * Parameters of Curves.
 */
export type Curves = { 
/**
 * Whether values are seen as on a screen (under the sRGB curve), or linear.
 */
display: boolean, 
/**
 * The curve of all channels.
 */
all: Array<CurvePoint>, 
/**
 * The curve of red.
 */
red: Array<CurvePoint>, 
/**
 * The curve of green.
 */
green: Array<CurvePoint>, 
/**
 * The curve of blue.
 */
blue: Array<CurvePoint>, };

/**
 * The drop folder.
 */
export type Delivery = { 
/**
 * Its path; none if the server watches no folder.
 */
folder: string | null, 
/**
 * What could not be taken, a sentence each, the newest first.
 */
refused: Array<string>, };

/**
 * How a depth was stored.
 */
export type DepthCoding = "units" | "near_white" | "near_black" | "inverse" | "normalised_inverse" | "z_buffer" | "logarithmic";

/**
 * What a depth measures.
 */
export type DepthMeasure = "planar" | "along_ray";

/**
 * Normals from depth has no parameters.
 */
export type DepthNormals = Record<symbol, never>;

/**
 * A range of depth with soft ends, scene units.
 */
export type DepthPart = { 
/**
 * Nearest fully affected depth.
 */
near: number, 
/**
 * Farthest fully affected depth.
 */
far: number, 
/**
 * Length of the ramp in front of `near`.
 */
near_soft: number, 
/**
 * Length of the ramp behind `far`.
 */
far_soft: number, };

/**
 * Positions from depth has no parameters.
 */
export type DepthPosition = Record<symbol, never>;

/**
 * A stroke that says how deep it is where it lies. Full-resolution px.
 */
export type DepthStroke = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * The depth, scene units.
 */
depth: number, 
/**
 * Width of the brush.
 */
size: number, 
/**
 * Its path.
 */
points: Array<[number, number]>, };

/**
 * How slopes are measured.
 */
export type Derivative = "central" | "sobel" | "scharr" | "wide";

/**
 * A colour table that was brought in.
 */
export type DisplayTable = { 
/**
 * The file.
 */
file: MediaFile, 
/**
 * The encoding that the table expects.
 */
reads: ColourSpace, };

/**
 * Parameters of By distance.
 */
export type Distance = { 
/**
 * Depth at which nothing is changed yet.
 */
from: number, 
/**
 * Depth at which all of it is done; nearer than the other to grade what is near.
 */
to: number, 
/**
 * Stops.
 */
exposure: number, 
/**
 * Power about middle grey.
 */
contrast: number, 
/**
 * 0 is grey.
 */
saturation: number, 
/**
 * Warmer above 0, cooler below.
 */
warmth: number, 
/**
 * Colour that is mixed in, at the picture's own brightness.
 */
tint: [number, number, number], 
/**
 * How much of the tint.
 */
tinted: number, };

/**
 * A document that is not kept: a revision with what was edited on it.
 */
export type Draft = { 
/**
 * The shot.
 */
id: string, 
/**
 * Revision that it was edited on.
 */
base: number, 
/**
 * What changes, by address.
 */
edits: Array<EditAt>, 
/**
 * The frame that is seen; what has keys gets one there.
 */
frame?: number, };

/**
 * Parameters of Drawing.
 */
export type Drawing = { 
/**
 * An SVG file.
 */
file?: MediaFile | null, 
/**
 * Its height, a share of the frame's.
 */
height: number, 
/**
 * In what colours it is shown.
 */
colours: DrawingColours, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * Another element whose picture fills the drawing.
 */
fill?: number | null, };

/**
 * In what colours a drawing is shown.
 */
export type DrawingColours = "own" | "one";

/**
 * Smooth noise: the same on every machine.
 */
export type Drift = { 
/**
 * Largest way to either side.
 */
amount: number, 
/**
 * Frames from one turn to the next.
 */
period: number, 
/**
 * Another number drifts otherwise.
 */
seed: number, };

/**
 * What moves one parameter.
 */
export type Drive = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Address of the parameter.
 */
at: string, 
/**
 * Keys, or a link; nothing leaves the parameter's own value.
 */
by?: DrivenBy, 
/**
 * What is added on top.
 */
drift?: Drift, };

/**
 * What a key holds, and what a driven parameter has at a frame.
 */
export type DriveValue = Array<number> | string;

/**
 * Where the values come from.
 */
export type DrivenBy = { "kind": "keys", 
/**
 * The keys, by ascending frame.
 */
keys: Array<Key>, } | { "kind": "link", 
/**
 * Its address.
 */
to: string, 
/**
 * Factor.
 */
times: number, 
/**
 * Offset.
 */
plus: number, };

/**
 * A driven parameter's value at a frame, as it would stand in the document.
 */
export type DrivenValue = { 
/**
 * Address of the parameter.
 */
at: string, 
/**
 * The value.
 */
value: unknown, 
/**
 * The same without drift: what a key would hold that changes nothing.
 */
under: DriveValue, };

/**
 * Parameters of Edge light.
 */
export type EdgeLight = { 
/**
 * What gets it; a matte of the element or its own outline.
 */
of?: number | null, 
/**
 * How far it reaches in.
 */
width: number, 
/**
 * Its blur.
 */
soft: number, 
/**
 * Where the light comes from: 0° from the right, 90° from above.
 */
from: number, 
/**
 * Higher keeps to what faces the light squarely; 0 goes all around.
 */
narrow: number, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * Factor on the light.
 */
intensity: number, };

/**
 * An edit.
 */
export type Edit = { 
/**
 * Revision it was made on.
 */
base: number, 
/**
 * What was done, in words.
 */
label: string, 
/**
 * What changes, by address.
 */
edits: Array<EditAt>, 
/**
 * The frame that was seen; what has keys gets one there.
 */
frame?: number, };

/**
 * One edit: something put, moved or removed.
 */
export type EditAt = { 
/**
 * Where.
 */
at: string, 
/**
 * The value that is put there; nothing removes what is there, or moves it if `after` is told.
 */
put?: unknown, 
/**
 * For one of a list: the number of the one that it comes after; 0 puts it first.
 */
after?: number, };

/**
 * An element: a render with its passes, or something made; and what is done to it.
 */
export type Element = { 
/**
 * Number that stays with the element.
 */
id: number, 
/**
 * Name for people.
 */
name: string, 
/**
 * Camera of the render, if known.
 */
camera: Camera | null, 
/**
 * Its passes.
 */
passes: Array<Pass>, 
/**
 * Passes made from others, each from those before it.
 */
extracts?: Array<Extract>, 
/**
 * Mattes that several steps may use, each from those before it.
 */
mattes?: Array<NamedMatte>, 
/**
 * What was noted when its files came in, in sentences.
 */
notes?: Array<string>, 
/**
 * Numbered files that passes take their frames from.
 */
sequences?: Array<Sequence>, 
/**
 * What it is made of, where it is no render: then it has no passes of its own.
 */
made?: MadeKind, 
/**
 * Planes of its untouched picture that are followed through the shot.
 */
tracks?: Array<Track>, 
/**
 * Changes, in the order in which they happen.
 */
steps: Array<Step>, 
/**
 * Where it is put over those below it, after its steps; where it is, if not said.
 */
placement?: Place, 
/**
 * The plane of another element that it goes along with; where it is put is then told as of the frame of that plane's
 * region.
 */
held?: HeldTo, 
/**
 * How it meets what lies below it; over it, if not said.
 */
joins?: Joins, 
/**
 * How it stands in one space with those below it, so that at each place the nearer one hides the other; it lies over
 * all of them, if not said.
 */
by_depth?: ByDepth, 
/**
 * Whether it is only used by others, and not seen itself.
 */
only_used?: boolean, };

/**
 * Parameters of With other elements.
 */
export type ElementsDepth = { 
/**
 * The other elements, by number.
 */
elements: Array<number>, 
/**
 * Whether the element's own depth counts as well, where it has one.
 */
own: boolean, };

/**
 * An ellipse. Full-resolution px.
 */
export type EllipsePart = { 
/**
 * Its middle.
 */
centre: [number, number], 
/**
 * Half its width and height.
 */
radii: [number, number], 
/**
 * Turn against the clock.
 */
turned: number, 
/**
 * Width of its soft edge.
 */
soft: number, };

/**
 * Parameters of Emboss.
 */
export type Emboss = { 
/**
 * What gets the bevel; a matte of the element or its own outline.
 */
of?: number | null, 
/**
 * How wide the bevel is.
 */
width: number, 
/**
 * How high it rises, in widths; negative sinks.
 */
height: number, 
/**
 * How it rises.
 */
profile: Profile, 
/**
 * The profile from its lower end to its upper, over its width.
 */
drawn: Array<CurvePoint>, 
/**
 * On which side of the edge it lies.
 */
side: Side, 
/**
 * Beyond a corner it goes around it, or its sides go on until they meet in a ridge.
 */
corners: Corners, 
/**
 * Where the light comes from: 0° from the right, 90° from above.
 */
from: number, 
/**
 * Higher keeps to what faces the light squarely.
 */
narrow: number, 
/**
 * Linear Rec.709.
 */
light_colour: [number, number, number], 
/**
 * How opaque the highlight is.
 */
light_opacity: number, 
/**
 * How wide the highlight is: grown above 1, shrunk below.
 */
light_grow: number, 
/**
 * Blur of the highlight.
 */
light_soft: number, 
/**
 * How the highlight meets the picture.
 */
light_blend: BlendMode, 
/**
 * Linear Rec.709.
 */
dark_colour: [number, number, number], 
/**
 * How opaque the shadow is.
 */
dark_opacity: number, 
/**
 * How wide the shadow is: grown above 1, shrunk below.
 */
dark_grow: number, 
/**
 * Blur of the shadow.
 */
dark_soft: number, 
/**
 * How the shadow meets the picture.
 */
dark_blend: BlendMode, };

/**
 * Parameters of Exposure.
 */
export type Exposure = { 
/**
 * Twice as bright for each stop.
 */
stops: number, };

/**
 * Parameters of Extend past the edge.
 */
export type ExtendDepth = { 
/**
 * Width of the band outside that is inputs a depth, full-resolution px.
 */
by: number, 
/**
 * How far inside the edge samples are not trusted, full-resolution px.
 */
choke: number, 
/**
 * Blur of what is new, full-resolution px.
 */
soften: number, };

/**
 * A pass that is made from other passes, anew wherever it is needed.
 */
export type Extract = { 
/**
 * Number that stays with it; no stored pass of the element has the same.
 */
id: number, 
/**
 * Name for people.
 */
name: string, 
/**
 * Whether steps, and extractions after it, read it for its role in the place of what was there before.
 */
serves: boolean, 
/**
 * How it is made.
 */
does: ExtractKind, 
/**
 * Passes that it reads instead of those that serve.
 */
reads?: Array<ReadsPass>, };

/**
 * A kind of extraction as the interface and the documentation see it.
 */
export type ExtractInfo = { 
/**
 * Name in documents.
 */
kind: string, 
/**
 * Words for people.
 */
title: string, 
/**
 * One sentence.
 */
about: string, 
/**
 * What the pass means.
 */
gives: Role, 
/**
 * A new one's parameters.
 */
defaults: ExtractKind, 
/**
 * Passes it reads with those parameters.
 */
reads: Array<Reads>, 
/**
 * Whether it is made by itself where a change needs what it gives and there is none.
 */
by_itself: boolean, 
/**
 * Whether it needs frames whose files tell where the camera stands.
 */
needs_poses: boolean, 
/**
 * JSON Schema of the parameters, in order, with `x-` notes for controls.
 */
schema: ObjectSchema, };

/**
 * A kind of extraction with its parameters.
 */
export type ExtractKind = { "kind": "extend_depth" } & ExtendDepth | { "kind": "fill_depth" } & FillDepth | { "kind": "smooth_depth" } & SmoothDepth | { "kind": "range_depth" } & RangeDepth | { "kind": "elements_depth" } & ElementsDepth | { "kind": "plane_depth" } & PlaneDepth | { "kind": "paint_depth" } & PaintDepth | { "kind": "depth_normals" } & DepthNormals | { "kind": "bump_normals" } & BumpNormals | { "kind": "height_normals" } & HeightNormals | { "kind": "bevel" } & Bevel | { "kind": "picture_height" } & PictureHeight | { "kind": "normals_height" } & NormalsHeight | { "kind": "depth_position" } & DepthPosition | { "kind": "clay" } & Clay | { "kind": "facing" } & Facing | { "kind": "curvature" } & Curvature | { "kind": "project_uv" } & ProjectUv | { "kind": "texture_height" } & TextureHeight | { "kind": "paint_flow" } & PaintFlow | { "kind": "camera_motion" } & CameraMotion | { "kind": "moves_motion" } & MovesMotion | { "kind": "moves_map" } & MovesMap | { "kind": "map_difference" } & MapDifference;

/**
 * Parameters of Facing.
 */
export type Facing = { 
/**
 * Exponent: above 1 only what faces the viewer squarely stays bright.
 */
power: number, 
/**
 * Bright at the rims instead.
 */
rims: boolean, };

/**
 * What faces a direction.
 */
export type FacingPart = { 
/**
 * The direction, camera space.
 */
toward: [number, number, number], 
/**
 * Degrees away from it up to which all is affected.
 */
within: number, 
/**
 * Degrees away from it from which on nothing is.
 */
until: number, };

/**
 * A field of a convention.
 */
export type Field = { 
/**
 * Its name in the document.
 */
key: string, 
/**
 * In words.
 */
label: string, 
/**
 * The roles that it concerns.
 */
roles: Array<Role>, 
/**
 * What can be chosen; a number where nothing can.
 */
choices: Array<FieldChoice>, 
/**
 * Unit of a number.
 */
unit: string, 
/**
 * Another field and its values on which this one depends.
 */
only_with: [string, unknown[]] | null, };

/**
 * One choice of a field.
 */
export type FieldChoice = { 
/**
 * The value, as the document holds it.
 */
value: unknown, 
/**
 * In words.
 */
label: string, };

/**
 * How far two pictures are apart, clipped to 0..1 and encoded as sRGB.
 */
export type Figures = { 
/**
 * Peak signal-to-noise ratio, dB; none if they are equal.
 */
psnr: number | null, 
/**
 * Mean structural similarity; none for tiny pictures.
 */
ssim: number | null, 
/**
 * Largest difference, in codes of 255.
 */
largest: number, };

/**
 * As what something is written.
 */
export type FileForm = { 
/**
 * The kind of file.
 */
format: Format, 
/**
 * How an OpenEXR file is packed.
 */
packing: Packing, 
/**
 * What goes into an OpenEXR file of the result beside it, each as layers of its own.
 */
with: Array<With>, };

/**
 * Files that become a shot, or join one.
 */
export type Files = { 
/**
 * The files.
 */
files: Array<MediaFile>, };

/**
 * Parameters of Fill holes.
 */
export type FillDepth = { 
/**
 * Side of a square as large as the largest hole that is filled, full-resolution px.
 */
up_to: number, };

/**
 * What can be wrong with a pass.
 */
export type FindingKind = "not_finite" | "too_few_levels" | "antialiased" | "depth_direction" | "depth_clipped" | "along_ray" | "normals_coded" | "normals_length" | "normals_axes" | "world_space" | "uv_flipped" | "uv_range" | "motion_scale" | "alpha" | "colour_managed" | "disagrees" | "lossy" | "camera" | "multiplied" | "contradicts" | "exposed";

/**
 * A finding of the checks.
 */
export type FindingSaid = { 
/**
 * Number of the pass.
 */
pass: number, 
/**
 * What was found.
 */
kind: FindingKind, 
/**
 * Its title.
 */
title: string, 
/**
 * How sure, 0..1.
 */
confidence: number, 
/**
 * What, in sentences, with the evidence.
 */
what: string, 
/**
 * What it costs.
 */
cost: string | null, 
/**
 * The words of the remedy's button.
 */
button: string | null, 
/**
 * What the remedy does.
 */
remedy: Remedy | null, 
/**
 * Whether there is a picture of where.
 */
has_place: boolean, 
/**
 * Whether somebody has seen it and left it so.
 */
accepted: boolean, };

/**
 * How some objects answer lamps.
 */
export type Finish = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Name for people.
 */
name: string, 
/**
 * Objects that have it, by their numbers in the object ID pass.
 */
objects: Array<number>, 
/**
 * Objects that have it, by their hashed IDs.
 */
hashed: Array<number>, 
/**
 * Factor on the diffuse light.
 */
diffuse: number, 
/**
 * Reflectance seen head-on; 0.04 is varnish, 0 none.
 */
specular: number, 
/**
 * From mirror to chalk.
 */
roughness: number, 
/**
 * A metal has no diffuse light, and mirrors in its own colour.
 */
metalness: number, 
/**
 * Where it has its colour from.
 */
colour_from: FinishColour, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], };

/**
 * Where a finish has its colour from.
 */
export type FinishColour = "albedo" | "own";

/**
 * Finishes as they are proposed.
 */
export type Finishing = { 
/**
 * Rows of a table, the largest objects first.
 */
finishes: Array<Finish>, 
/**
 * How many objects were looked at, how many of them are taken for metal, and how many for glossy.
 */
counted: [number, number, number], };

/**
 * The flat texture: a part of UV with what lies on it, dark where it is not seen.
 */
export type Flat = { 
/**
 * The least u and v.
 */
low: [number, number], 
/**
 * The largest.
 */
high: [number, number], 
/**
 * Width ÷ height of the texture's own picture.
 */
aspect: number, 
/**
 * A PNG of it, v upward, in Base64.
 */
png: string, };

/**
 * Parameters of Flow in a loop.
 */
export type FlowLoop = { 
/**
 * Frames after which it begins again.
 */
period: number, 
/**
 * How fast it flows, against what the motion pass says; below 0 the other way.
 */
speed: number, 
/**
 * Frames by which it is ahead.
 */
ahead: number, 
/**
 * The frame that is seen; a still has its own.
 */
frame: number, };

/**
 * What a plane is followed by.
 */
export type FollowedBy = "picture" | "motion" | "positions";

/**
 * What is told while a track is followed, a line each.
 */
export type Following = { "kind": "frame", 
/**
 * How well it fits there.
 */
fit: TrackedFit, 
/**
 * How many were looked at.
 */
done: number, 
/**
 * How many there are.
 */
of: number, } | { "kind": "done", 
/**
 * The shot with it.
 */
state: ShotState, } | { "kind": "failed", 
/**
 * Why.
 */
sentence: string, };

/**
 * What the texture is wrapped on.
 */
export type Form = "plane" | "cylinder" | "sphere";

/**
 * What kind of file to write.
 */
export type Format = "exr_float" | "exr_half" | "png16" | "png8" | "tiff_float" | "tiff16" | "jpeg";

/**
 * A frame of a job that is written or has failed.
 */
export type FrameOfJob = { 
/**
 * Its number.
 */
frame: number, 
/**
 * Whether its file is there.
 */
written: boolean, 
/**
 * Why it failed, or what went wrong with the last try, in a sentence.
 */
error: string | null, };

/**
 * First and last frame of a shot.
 */
export type FrameRange = { 
/**
 * First frame.
 */
first: number, 
/**
 * Last frame.
 */
last: number, };

/**
 * Parameters of Gloss.
 */
export type Gloss = { 
/**
 * What gets the bevel; a matte of the element or its own outline.
 */
of?: number | null, 
/**
 * How wide the bevel is.
 */
width: number, 
/**
 * How high it rises, in widths; negative sinks.
 */
height: number, 
/**
 * How it rises.
 */
profile: Profile, 
/**
 * The profile from its lower end to its upper, over its width.
 */
drawn: Array<CurvePoint>, 
/**
 * Beyond a corner it goes around it, or its sides go on until they meet in a ridge.
 */
corners: Corners, 
/**
 * Blur of its slopes: rounder ridges.
 */
soft: number, 
/**
 * What is all around.
 */
from: SurroundFrom, 
/**
 * The picture: twice as wide as high, its middle straight ahead.
 */
picture?: MediaFile | null, 
/**
 * The element whose picture it is, as a lat-long.
 */
element?: number | null, 
/**
 * How many bars stand all around.
 */
bars: number, 
/**
 * Turned to the right.
 */
turn: number, 
/**
 * Tilted up.
 */
tilt: number, 
/**
 * Linear Rec.709.
 */
tint: [number, number, number], 
/**
 * Factor on what is mirrored.
 */
intensity: number, 
/**
 * From mirror to chalk.
 */
roughness: number, 
/**
 * Where it shines.
 */
on: GlossOn, };

/**
 * Where it shines.
 */
export type GlossOn = "bevel" | "face" | "both";

/**
 * Parameters of Glow.
 */
export type Glow = { 
/**
 * Brightness from which on it spreads; 1 is white.
 */
threshold: number, 
/**
 * How wide it is.
 */
size: number, 
/**
 * From a bright core to a wide haze.
 */
wide: number, 
/**
 * Linear Rec.709.
 */
tint: [number, number, number], 
/**
 * Share of the light that is laid over; 1 adds as much as was taken.
 */
intensity: number, };

/**
 * How a value goes on from a key to the next.
 */
export type Goes = "hold" | "linear" | "smooth";

/**
 * Parameters of Graded blur.
 */
export type GradedBlur = { 
/**
 * Places with the blur that each has; between them it passes from one to the other.
 */
places: Array<BlurPoint>, 
/**
 * Factor on all of them.
 */
all: number, };

/**
 * Parameters of Gradient.
 */
export type Gradient = { 
/**
 * Along what the colours change.
 */
form: GradientForm, 
/**
 * Where the first colour ends: a share of the frame, from its left and its upper edge.
 */
from: [number, number], 
/**
 * Where the second colour begins.
 */
to: [number, number], 
/**
 * Linear Rec.709.
 */
first: [number, number, number], 
/**
 * How opaque the first colour is.
 */
first_opacity: number, 
/**
 * Linear Rec.709.
 */
second: [number, number, number], 
/**
 * How opaque the second colour is.
 */
second_opacity: number, 
/**
 * Colours on the way from the first to the second.
 */
between: Array<ColourStop>, 
/**
 * From a straight change to one that begins and ends gently.
 */
ease: number, };

/**
 * Along what the colours change.
 */
export type GradientForm = "line" | "round" | "turn";

/**
 * From nothing to all between two places. Full-resolution px.
 */
export type GradientPart = { 
/**
 * Where there is nothing yet.
 */
from: [number, number], 
/**
 * Where there is all.
 */
to: [number, number], };

/**
 * Parameters of Grain.
 */
export type Grain = { 
/**
 * How strong it is.
 */
amount: number, 
/**
 * How large its grains are.
 */
size: number, 
/**
 * From grey grain to one that differs in every channel.
 */
colour: number, 
/**
 * Another number is another grain; drive it to make it move.
 */
seed: number, };

/**
 * Parameters of Grid.
 */
export type Grid = { 
/**
 * Points from the left edge of the frame to the right one.
 */
across: number, 
/**
 * Points from the upper edge of the frame to the lower one.
 */
down: number, 
/**
 * The points that were dragged.
 */
points: Array<GridPoint>, 
/**
 * How the picture is read between its pixels.
 */
filter: Kernel, };

/**
 * A point of the grid that was dragged.
 */
export type GridPoint = { 
/**
 * Its number: counted from 1, row by row from the upper left.
 */
id: number, 
/**
 * How far it is moved, right and down.
 */
by: [number, number], };

/**
 * Headings of the list of changes, in the order of the work.
 */
export type Group = "Light" | "Surface" | "Relief and edges" | "Place" | "Focus and air" | "Finish";

/**
 * An object by its hashed ID.
 */
export type HashedName = { 
/**
 * Bits of the ID.
 */
id: number, 
/**
 * Its name, as the file lists it; empty if it does not.
 */
name: string, };

/**
 * Objects by their hashed IDs: no list of things with parameters, as their numbers are those of the file.
 */
export type HashedNames = Array<HashedName>;

/**
 * Objects, by their hashed IDs: antialiased.
 */
export type HashedPart = { 
/**
 * The objects.
 */
ids: HashedNames, };

/**
 * Parameters of Haze.
 */
export type Haze = { 
/**
 * Depth at which it begins.
 */
start: number, 
/**
 * How much of the light each unit of the way takes.
 */
density: number, 
/**
 * Where the colour is from.
 */
from: HazeColour, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], };

/**
 * Where the haze has its colour from.
 */
export type HazeColour = "own" | "farthest";

/**
 * Parameters of Normals from height.
 */
export type HeightNormals = { 
/**
 * How high a step of 1 is, full-resolution px.
 */
strength: number, 
/**
 * How slopes are measured.
 */
kernel: Derivative, 
/**
 * How strongly detail finer than the size comes through.
 */
fine: number, 
/**
 * How strongly detail up to four times the size comes through.
 */
middle: number, 
/**
 * How strongly all that is broader comes through.
 */
broad: number, 
/**
 * Where fine detail ends; usually about as wide as a brush stroke or a grain.
 */
size: number, 
/**
 * Whether the map repeats: its edges then fit each other.
 */
tileable: boolean, 
/**
 * Whether y runs down, for tools that want it so; lamps here want it up.
 */
y_down: boolean, };

/**
 * What holds a texture to an object that moves.
 */
export type HeldBy = "nothing" | "rest_position" | "its_motion";

/**
 * A plane of another element, to which an element is held.
 */
export type HeldTo = { 
/**
 * The element whose picture was followed.
 */
element: number, 
/**
 * Number of the track among its own.
 */
track: number, };

/**
 * Shares of a picture's tones.
 */
export type Histogram = { 
/**
 * Shares of all three channels together, from black to white.
 */
all: Array<number>, 
/**
 * Shares of red.
 */
red: Array<number>, 
/**
 * Shares of green.
 */
green: Array<number>, 
/**
 * Shares of blue.
 */
blue: Array<number>, };

/**
 * A range of hue of the untouched picture.
 */
export type HuePart = { 
/**
 * Its middle: 0 red, 120 green, 240 blue.
 */
hue: number, 
/**
 * Its width.
 */
width: number, 
/**
 * Length of the ramp on both sides.
 */
soft: number, 
/**
 * Saturation (0..1) below which it fades.
 */
least: number, };

/**
 * A job and how far it has come.
 */
export type Job = { 
/**
 * Number.
 */
id: string, 
/**
 * Revision of its shot.
 */
revision: number, 
/**
 * What is written.
 */
wish: Wish, 
/**
 * The frames.
 */
range: FrameRange, 
/**
 * Where it stands.
 */
state: Stands, 
/**
 * When it was asked for.
 */
made_at: string, 
/**
 * Frames that are written.
 */
done: number, 
/**
 * Frames that have failed.
 */
failed: number, 
/**
 * Frames that are being worked on.
 */
taken: number, 
/**
 * Seconds until all are written, if the others take as long as those before.
 */
left: number | null, 
/**
 * Bytes of what is written.
 */
bytes: number, 
/**
 * Frames that lie in the folder that is named.
 */
put: number, };

/**
 * How a step meets the picture, or an element what lies below it.
 */
export type Joins = { 
/**
 * Blend mode.
 */
blend: BlendMode, 
/**
 * Encoding in which screen, multiply and overlay see the values.
 */
space: BlendSpace, 
/**
 * 0 = not at all, 1 = fully.
 */
strength: number, };

/**
 * What stays.
 */
export type Keeps = "nearer" | "farther";

/**
 * A kernel, separable, of sum 1 at every offset.
 */
export type Kernel = "bilinear" | "catmull_rom" | "lanczos3";

/**
 * A value at a frame.
 */
export type Key = { 
/**
 * The frame; it may lie between two.
 */
frame: number, 
/**
 * The value.
 */
value: DriveValue, 
/**
 * How it goes on to the next.
 */
goes: Goes, };

/**
 * A kind of step as the interface and the documentation see it.
 */
export type KindInfo = { 
/**
 * Name in documents.
 */
kind: string, 
/**
 * Where it stands in the list of changes.
 */
group: Group, 
/**
 * Word for people.
 */
title: string, 
/**
 * One sentence.
 */
about: string, 
/**
 * A new step's parameters.
 */
defaults: StepKind, 
/**
 * How a new step joins.
 */
joins: Joins, 
/**
 * Whether it moves the picture.
 */
moves: boolean, 
/**
 * Whether it tells what it found out.
 */
tells: boolean, 
/**
 * Passes it reads with those parameters.
 */
reads: Array<Reads>, 
/**
 * JSON Schema of the parameters, in order, with `x-` notes for controls.
 */
schema: ObjectSchema, };

/**
 * The pass that is laid over.
 */
export type Laid = "clay" | "shadow" | "normal" | "height" | "albedo" | "other";

/**
 * A place that is looked for on the other side.
 */
export type LaidAt = { "picture": [number, number] } | { "uv": [number, number] };

/**
 * Where a texture is seen; full-resolution px.
 */
export type LaidOut = { 
/**
 * Its border, each run of it that is seen.
 */
outline: Array<Array<[number, number]>>, 
/**
 * Its middle, or what is seen nearest to it.
 */
middle?: [number, number] | null, 
/**
 * The middle of its right side.
 */
right?: [number, number] | null, 
/**
 * The middle of its upper side.
 */
top?: [number, number] | null, 
/**
 * Width ÷ height of the texture's own picture.
 */
aspect: number, };

/**
 * A place of the picture and the UV that is seen there.
 */
export type LaidPlace = { 
/**
 * UV, if the surface is seen there.
 */
uv?: [number, number] | null, 
/**
 * Full-resolution px, if that UV is seen.
 */
at?: [number, number] | null, 
/**
 * Width ÷ height of the texture's own picture.
 */
aspect: number, };

/**
 * A lamp.
 */
export type Lamp = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Whether it is lit.
 */
on: boolean, 
/**
 * Where the light comes from.
 */
kind: LampKind, 
/**
 * From the surface to the lamp, camera space (x right, y up, z toward the viewer).
 */
toward: [number, number, number], 
/**
 * Camera space, scene units.
 */
position: [number, number, number], 
/**
 * The place that a spot is turned to, camera space, scene units.
 */
aim: [number, number, number], 
/**
 * The whole angle of the cone.
 */
cone: number, 
/**
 * Share of the cone over which its edge fades.
 */
cone_soft: number, 
/**
 * What the lamp stays with while the camera goes. In the scene it is told as the camera of the first frame sees it.
 */
stays: StaysWith, 
/**
 * What gives the colour.
 */
colour_from: ColourFrom, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * Of a black body.
 */
temperature: number, 
/**
 * What a white matt surface facing the lamp gains: far away for a directional lamp, at distance 1 for the others.
 */
intensity: number, 
/**
 * Stops on top of the intensity.
 */
stops: number, 
/**
 * How large the lamp is seen to be, a whole angle; the sun is ½°.
 */
spread: number, 
/**
 * Radius of the lamp.
 */
radius: number, 
/**
 * Whether what is seen in the picture casts shadows; a larger lamp casts softer ones.
 */
shadows: boolean, 
/**
 * A glow where the lamp itself is seen, gone where something hides it.
 */
glow: number, 
/**
 * Streaks and ghosts of a lens, gone where something hides the lamp.
 */
flare: number, 
/**
 * Radius of the glow.
 */
glow_size: number, };

/**
 * Where a lamp's light comes from.
 */
export type LampKind = "directional" | "point" | "spot";

/**
 * What lays a texture: a step, or an extracted pass.
 */
export type Layer = { "kind": "step", 
/**
 * Its number.
 */
id: number, } | { "kind": "extract", 
/**
 * Its number.
 */
id: number, };

/**
 * What becomes of lengths in px where a preset is put on letters of another height.
 */
export type Lengths = "fitted" | "kept";

/**
 * Parameters of Lens.
 */
export type LensBend = { 
/**
 * Whether what the lens did is taken off or put on.
 */
does: LensWay, 
/**
 * Another Lens step whose lens this one uses: what one takes off, the other puts back exactly.
 */
lens_of?: number | null, 
/**
 * Numbers, or lines drawn along what ought to be straight.
 */
from: LensFrom, 
/**
 * The formula that the coefficients belong to.
 */
model: LensModel, 
/**
 * Lines along what ought to be straight, in the picture before the step.
 */
lines: Array<LensLine>, 
/**
 * First coefficient: below 0 a barrel, above 0 a cushion (the other way round in the division model).
 */
k1: number, 
/**
 * Second coefficient: bends more toward the corners.
 */
k2: number, 
/**
 * Third coefficient.
 */
k3: number, 
/**
 * Tangential: the lens sits askew, up or down.
 */
p1: number, 
/**
 * Tangential: the lens sits askew, to a side.
 */
p2: number, 
/**
 * The length in which the coefficients measure the distance from the centre.
 */
unit: LensUnit, 
/**
 * The focal length that the coefficients go with (OpenCV's fx).
 */
focal: number, 
/**
 * How far the lens's centre lies from the middle of the frame. (OpenCV counts cx and cy from the middle of the first pixel: cx + ½ − width ÷ 2.)
 */
centre: [number, number], 
/**
 * How many times as long the unit is down as across: 2 for a picture squeezed to half its width (OpenCV's fy ÷ fx).
 */
squeeze: number, 
/**
 * How the picture is read between its pixels.
 */
filter: Kernel, };

/**
 * How the coefficients are told.
 */
export type LensFrom = "numbers" | "lines";

/**
 * A line along something that ought to be straight.
 */
export type LensLine = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Points along it, in the picture as the lens shows it, full-resolution px.
 */
points: Array<[number, number]>, };

/**
 * The formula that the coefficients belong to.
 */
export type LensModel = "brown" | "division";

/**
 * The length that coefficients measure distances from the centre in.
 */
export type LensUnit = "focal" | "half_width" | "width" | "half_height" | "half_diagonal" | "px";

/**
 * Which way the lens is gone through.
 */
export type LensWay = "undistort" | "distort";

/**
 * Parameters of Lettering.
 */
export type Lettering = { 
/**
 * What is written; a new line begins a new one.
 */
text: string, 
/**
 * The font.
 */
font: LetteringFont, 
/**
 * An OpenType or TrueType file.
 */
file?: MediaFile | null, 
/**
 * Height of an em; capitals are about 0.7 of it.
 */
size: number, 
/**
 * Size of every line but the first.
 */
later: number, 
/**
 * Space added between letters.
 */
tracking: number, 
/**
 * From one line to the next.
 */
leading: number, 
/**
 * How its lines stand to each other.
 */
align: LetteringAlign, 
/**
 * Radius of the arc that lines run along: upwards if positive, downwards if negative; 0 for straight lines.
 */
arc: number, 
/**
 * Lines that are set otherwise than the rest.
 */
lines: Array<OwnLine>, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * Another element whose picture fills the letters: a pattern, a gradient, footage.
 */
fill?: number | null, 
/**
 * How opaque the letters are; their rings stay.
 */
opacity: number, 
/**
 * Rings along the outline; the first lies on top.
 */
rings: Array<OutlineRing>, };

/**
 * How its lines stand to each other.
 */
export type LetteringAlign = "left" | "centre" | "right";

/**
 * Which font.
 */
export type LetteringFont = "cinzel" | "archivo_black" | "oswald" | "zilla_slab" | "great_vibes" | "limelight" | "file";

/**
 * The light on an element.
 */
export type LightFound = { 
/**
 * How well it explains the brightness of what was not left out, 0..1.
 */
explained: number, 
/**
 * Share of the pixels that were not left out as shadow or gloss.
 */
used: number, 
/**
 * The nine harmonics, RGB: what a white matt surface shows.
 */
light: [[number, number, number], [number, number, number], [number, number, number], [number, number, number], [number, number, number], [number, number, number], [number, number, number], [number, number, number], [number, number, number]], };

/**
 * Parameters of Light wrap.
 */
export type LightWrap = { 
/**
 * What it comes round; a matte of the element or its own outline.
 */
of?: number | null, 
/**
 * How far it reaches in.
 */
width: number, 
/**
 * Whose light comes in: one element, or all that lies below this one.
 */
from?: number | null, 
/**
 * How much what lies behind is blurred before it comes in.
 */
blur: number, 
/**
 * Linear Rec.709.
 */
tint: [number, number, number], 
/**
 * Factor on the light.
 */
intensity: number, };

/**
 * Ready lamps.
 */
export type Lighting = "side" | "above" | "rims" | "grazing" | "room";

/**
 * The matte that limits a step.
 */
export type Limit = { 
/**
 * What makes the matte, in order; none makes an empty one.
 */
parts: Array<MattePart>, 
/**
 * What is done to its edge.
 */
finish?: MatteEdge, 
/**
 * Everywhere else instead.
 */
invert: boolean, };

/**
 * What the light on the surface is taken from.
 */
export type LitBy = "best" | "diffuse" | "albedo" | "clay" | "one_colour" | "itself";

/**
 * Which picture, and how to show it.
 */
export type Look = { 
/**
 * What to make a picture of.
 */
target: Target, 
/**
 * Px at `scale`; the whole frame if not said.
 */
window: Window | null, 
/**
 * Frame; the first if not said.
 */
frame?: number, 
/**
 * Proxy scale: how often the size is halved.
 */
scale: Scale, 
/**
 * How to show it.
 */
view: View, 
/**
 * A colour table in the place of the view transform.
 */
grade?: DisplayTable, 
/**
 * Show how far the picture is from another instead of the picture.
 */
against?: Against, 
/**
 * A finding whose place is marked on the picture.
 */
mark?: Mark, 
/**
 * A limit or matte that is laid over the picture as a tint.
 */
tint?: Target, 
/**
 * The picture is seen from a little to the side.
 */
rock?: Rock, 
/**
 * A plane that stands still: everything is seen as it lies on the frame of its region.
 */
steady?: HeldTo, 
/**
 * Bytes of red, green, blue and alpha row by row in the place of a PNG: for a value that moves, since they are neither
 * packed nor unpacked.
 */
raw?: boolean, 
/**
 * The pane that waits; a newer request of the same pane cancels this one.
 */
viewer: string | null, 
/**
 * Nobody waits for it yet: it is made while there is nothing else to do, and given up for what somebody waits for.
 */
ahead?: boolean, };

/**
 * A range of luminance of the untouched picture, as on a screen (0 black, 1 white).
 */
export type LuminancePart = { 
/**
 * Lowest fully affected value.
 */
low: number, 
/**
 * Highest fully affected value.
 */
high: number, 
/**
 * Length of the ramp below the lowest.
 */
low_soft: number, 
/**
 * Length of the ramp above the highest.
 */
high_soft: number, };

/**
 * A kind of made element as the interface and the documentation see it.
 */
export type MadeInfo = { 
/**
 * Name in documents.
 */
kind: string, 
/**
 * Words for people.
 */
title: string, 
/**
 * One sentence.
 */
about: string, 
/**
 * Passes that it draws, by role.
 */
offers: Array<Offered>, 
/**
 * A new one's parameters.
 */
defaults: MadeKind, 
/**
 * JSON Schema of the parameters, in order, with `x-` notes for controls.
 */
schema: ObjectSchema, };

/**
 * A kind of made element with its parameters.
 */
export type MadeKind = { "kind": "lettering" } & Lettering | { "kind": "drawing" } & Drawing | { "kind": "solid" } & Solid | { "kind": "gradient" } & Gradient | { "kind": "pattern" } & Pattern | { "kind": "picture" } & Picture;

/**
 * Parameters of Difference of maps.
 */
export type MapDifference = { 
/**
 * The map that is asked about; the one that serves if none is chosen.
 */
map?: number | null, 
/**
 * The map that it is held against; none is the map that moves nothing.
 */
against?: number | null, };

/**
 * Where the map is from.
 */
export type MapFrom = "pass" | "file";

/**
 * Which way the map goes.
 */
export type MapGoes = "as_the_steps" | "back_again";

/**
 * What a coordinate map holds.
 */
export type MapHolds = "places" | "offset_px" | "offset_width" | "offset_size";

/**
 * Which way the map is gone.
 */
export type MapWay = "as_it_says" | "the_other_way";

/**
 * A finding on a picture.
 */
export type Mark = { 
/**
 * The element.
 */
element: number, 
/**
 * The pass.
 */
pass: number, 
/**
 * What was found.
 */
finding: FindingKind, };

/**
 * Parameters of Match the light.
 */
export type MatchLight = { 
/**
 * The element whose light is taken.
 */
like: number | null, 
/**
 * Nothing becomes more than this much brighter or darker.
 */
most: number, };

/**
 * What is done to the edge of a matte, in this order. Lengths in full-resolution px.
 */
export type MatteEdge = { 
/**
 * Grown by this much, or choked if negative.
 */
grow: number, 
/**
 * Only a band along the edge: this far inside and outside of it.
 */
band?: [number, number], 
/**
 * How far the edge is softened.
 */
soften: number, 
/**
 * What is at or below this becomes nothing.
 */
low: number, 
/**
 * What is at or above this becomes all.
 */
high: number, };

/**
 * What mattes are put together of, as the interface sees it.
 */
export type MatteInfo = { 
/**
 * Every kind of part, in the order in which a menu shows them.
 */
parts: Array<PartInfo>, 
/**
 * What is done to the edge of a new one: nothing.
 */
edge: MatteEdge, 
/**
 * JSON Schema of what may be done to an edge, in order, with `x-` notes for controls.
 */
edge_schema: ObjectSchema, };

/**
 * A part of a matte.
 */
export type MattePart = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * What makes it.
 */
by: PartKind, 
/**
 * How it joins the parts before it; the first joins an empty matte.
 */
joins: Combine, 
/**
 * Everywhere else instead.
 */
invert: boolean, 
/**
 * The track of its element that it goes along with, if it is drawn: it is then told as of the frame of that track's
 * region.
 */
held?: number, };

/**
 * What a depth measures.
 */
export type Measure = "same" | "ray_to_axis" | "axis_to_ray";

/**
 * Between which times the motion is measured.
 */
export type MeasuredOver = "around_the_frame" | "to_the_next" | "from_the_last";

/**
 * A file that was brought in and is in the media store.
 */
export type MediaFile = { 
/**
 * The name under which it came.
 */
name: string, 
/**
 * Its bytes' hash.
 */
media: MediaId, };

/**
 * BLAKE3 hash of a file's bytes: 64 hexadecimal digits in lower case.
 */
export type MediaId = string;

/**
 * What the media store holds.
 */
export type MediaUsage = { 
/**
 * Files.
 */
files: number, 
/**
 * Their bytes.
 */
bytes: number, 
/**
 * Files that nothing names.
 */
unused: number, 
/**
 * Their bytes.
 */
unused_bytes: number, };

/**
 * How a texture meets the colour that was there.
 */
export type Meets = "instead" | "multiplied";

/**
 * Memory that the engine holds.
 */
export type Memory = { 
/**
 * Decoded files and colour tables.
 */
files: MemoryUse, 
/**
 * Canonical passes, results, findings.
 */
results: MemoryUse, };

/**
 * What a cache holds, bytes.
 */
export type MemoryUse = { 
/**
 * Now.
 */
bytes: number, 
/**
 * At most.
 */
most: number, };

/**
 * A place, and how far what was solved is off there; full-resolution px.
 */
export type Miss = { 
/**
 * The place.
 */
at: [number, number], 
/**
 * How far off, right and down.
 */
by: [number, number], };

/**
 * Files that join an element.
 */
export type MoreFiles = { 
/**
 * Revision at which the person sees the shot.
 */
base: number, 
/**
 * The element; none makes elements of their own.
 */
element?: number, 
/**
 * The files.
 */
files: Array<MediaFile>, 
/**
 * A pass whose file, or whole sequence, they take the place of.
 */
instead?: number, };

/**
 * Parameters of Motion blur.
 */
export type MotionBlur = { 
/**
 * How long the shutter is open: 360° is from one frame to the next.
 */
shutter: number, 
/**
 * When it is open.
 */
opens: Opens, 
/**
 * Longer or shorter than the passes say; below 0 the other way.
 */
length: number, 
/**
 * Nothing is drawn out longer than this, full-resolution px.
 */
longest: number, 
/**
 * Width of the picture's own soft edges: how far the colours of two surfaces mix there.
 */
rim: number, };

/**
 * What motion leads to.
 */
export type MotionTime = "forward" | "backward";

/**
 * The unit of motion.
 */
export type MotionUnit = "px" | "width" | "size";

/**
 * Which way the second axis of motion runs.
 */
export type MotionY = "down" | "up";

/**
 * Passes to be moved from one element to another.
 */
export type MovePasses = { 
/**
 * Revision at which the person sees the shot.
 */
base: number, 
/**
 * The element that has them.
 */
from: number, 
/**
 * Numbers of the passes.
 */
passes: Array<number>, 
/**
 * The element that they belong to.
 */
to: number, };

/**
 * Parameters of Map of moves.
 */
export type MovesMap = { 
/**
 * The first of the steps; none is the first of all.
 */
first?: number | null, 
/**
 * The last of the steps; none is the last of all.
 */
last?: number | null, 
/**
 * As the steps, or undoing them.
 */
goes: MapGoes, 
/**
 * What it holds: places, or offsets from each pixel to its place, right and down.
 */
holds: MapHolds, 
/**
 * Whether the map reaches as far beyond the frame as the picture does after the steps.
 */
overscan: boolean, };

/**
 * Parameters of Motion of moves.
 */
export type MovesMotion = { 
/**
 * Between which times the motion is measured.
 */
over: MeasuredOver, };

/**
 * A matte that several steps may use.
 */
export type NamedMatte = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Name for people.
 */
name: string, 
/**
 * The matte.
 */
matte: Limit, };

/**
 * A matte of the element by name.
 */
export type NamedPart = { 
/**
 * Its number.
 */
matte: number, };

/**
 * A shot that changed because files arrived.
 */
export type News = { 
/**
 * The shot.
 */
shot: string, 
/**
 * Revision at which it stands.
 */
revision: number, 
/**
 * What arrived, in words.
 */
words: string, };

/**
 * How directions were stored.
 */
export type NormalCoding = "signed" | "zero_to_one";

/**
 * Parameters of Height from normals.
 */
export type NormalsHeight = { 
/**
 * Height that counts as a step of 1, full-resolution px.
 */
strength: number, 
/**
 * Whether the map repeats.
 */
tileable: boolean, };

/**
 * Objects, by their numbers in the object ID pass.
 */
export type ObjectsPart = { 
/**
 * The numbers.
 */
ids: Array<number>, };

/**
 * A pass that a made element draws.
 */
export type Offered = { 
/**
 * Its number.
 */
pass: number, 
/**
 * What it means.
 */
role: Role, };

/**
 * What is to be seen.
 */
export type OnShape = { 
/**
 * Element.
 */
element: number, 
/**
 * Its pass: a height or normals.
 */
pass: number, 
/**
 * The body.
 */
shape: Shape, 
/**
 * The lamps.
 */
lighting: Lighting, 
/**
 * Turned to the right, and toward the viewer, degrees.
 */
turn: [number, number], 
/**
 * How often the map repeats across the body.
 */
tiles: number, 
/**
 * How high a step of 1 of a height is, px of the map; how strongly normals turn, 1 as they are.
 */
strength: number, 
/**
 * From mirror to chalk.
 */
roughness: number, 
/**
 * Side of the picture, px.
 */
side: number, };

/**
 * When the shutter is open.
 */
export type Opens = "around" | "from" | "up_to";

/**
 * What a picture is compared with.
 */
export type Other = { "kind": "target", 
/**
 * What.
 */
target: Target, } | { "kind": "file", 
/**
 * The file.
 */
file: MediaFile, };

/**
 * The folder for hand-off.
 */
export type Outbox = { 
/**
 * Its path; none if the server has none.
 */
folder: string | null, 
/**
 * What keeps frames from being put there, a sentence.
 */
trouble: string | null, };

/**
 * Parameters of Outline.
 */
export type Outline = { 
/**
 * What gets the outline; a matte of the element or its own outline.
 */
of?: number | null, 
/**
 * Rings along the edge; the first lies on top.
 */
rings: Array<OutlineRing>, };

/**
 * A ring of colour along the outline.
 */
export type OutlineRing = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * How wide it is.
 */
width: number, 
/**
 * On which side of the outline it lies.
 */
side: Side, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * How opaque it is.
 */
opacity: number, };

/**
 * A line that is set otherwise than the rest.
 */
export type OwnLine = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Which line.
 */
line: number, 
/**
 * Its size, of the size of the lettering.
 */
size: number, 
/**
 * Space added between its letters, beside the tracking of all.
 */
tracking: number, };

/**
 * How samples are packed; none of them loses anything.
 */
export type Packing = "zip" | "zip_line" | "piz" | "runs" | "plain";

/**
 * Parameters of Painted.
 */
export type PaintDepth = { 
/**
 * The strokes; a later one lies over an earlier one.
 */
strokes: Array<DepthStroke>, 
/**
 * Difference of colour on a screen that counts as an edge.
 */
edges: number, 
/**
 * Whether only what the element covers gets a depth.
 */
only_covered: boolean, };

/**
 * Parameters of Painted motion.
 */
export type PaintFlow = { 
/**
 * The strokes; a later one covers an earlier one.
 */
strokes: Array<PaintedFlow>, 
/**
 * How far the picture flows along them from one frame to the next.
 */
speed: number, };

/**
 * A stroke along which the picture flows. Full-resolution px.
 */
export type PaintedFlow = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Width of the brush.
 */
size: number, 
/**
 * Share of the brush over which it fades.
 */
softness: number, 
/**
 * Its path; the picture flows the way it was drawn.
 */
points: Array<[number, number]>, };

/**
 * A stroke of a brush. Full-resolution px.
 */
export type PaintedStroke = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Width of the brush.
 */
size: number, 
/**
 * Share of its radius over which it fades.
 */
softness: number, 
/**
 * What it lays down.
 */
flow: number, 
/**
 * Whether it takes away.
 */
erases: boolean, 
/**
 * Its path.
 */
points: Array<[number, number]>, };

/**
 * A kind of part as the interface and the documentation see it.
 */
export type PartInfo = { 
/**
 * Name in documents.
 */
kind: string, 
/**
 * Words for people.
 */
title: string, 
/**
 * What it chooses, as goes on after its title.
 */
about: string, 
/**
 * The pass that it is read from, if from one.
 */
role: Role | null, 
/**
 * Whether it is drawn in the picture, and so may be held to a plane of it.
 */
drawn: boolean, 
/**
 * A new one's parameters.
 */
defaults: PartKind, 
/**
 * JSON Schema of the parameters, in order, with `x-` notes for controls.
 */
schema: ObjectSchema, };

/**
 * What makes a part of a matte.
 */
export type PartKind = { "kind": "objects" } & ObjectsPart | { "kind": "hashed" } & HashedPart | { "kind": "depth" } & DepthPart | { "kind": "facing" } & FacingPart | { "kind": "luminance" } & LuminancePart | { "kind": "hue" } & HuePart | { "kind": "brush" } & BrushPart | { "kind": "ellipse" } & EllipsePart | { "kind": "polygon" } & PolygonPart | { "kind": "gradient" } & GradientPart | { "kind": "coverage" } & CoveragePart | { "kind": "named" } & NamedPart;

/**
 * A stored pass.
 */
export type Pass = { 
/**
 * Number that stays with the pass.
 */
id: number, 
/**
 * Name for people.
 */
name: string, 
/**
 * What it means.
 */
role: Role, 
/**
 * Where its samples are.
 */
source: Source, 
/**
 * How they are stored.
 */
convention: Convention, 
/**
 * What is put right before anything reads it, in order.
 */
repairs?: Array<Repair>, 
/**
 * Findings that somebody has seen and left as they are.
 */
accepted?: Array<FindingKind>, };

/**
 * What is known of a stored pass: where it is, how it is stored, and its range.
 */
export type PassFacts = { 
/**
 * Number of the pass.
 */
pass: number, 
/**
 * How it is stored, in words: "half, zip".
 */
stored: string, 
/**
 * What names and values say that it is.
 */
proposed: Role | null, 
/**
 * Why, in words.
 */
why: string, 
/**
 * Names of hashed IDs, as the file lists them.
 */
names: Array<[number, string]>, 
/**
 * Data window.
 */
window: Window, 
/**
 * Smallest finite stored value.
 */
low: number | null, 
/**
 * Largest finite stored value.
 */
high: number | null, 
/**
 * How the canonical depths are spread: shares of the samples in even steps from the nearest to the
 * farthest, for depth only.
 */
histogram: Array<number>, 
/**
 * The nearest and farthest canonical depth, for depth only.
 */
range: [number, number] | null, };

/**
 * Parameters of Lay a pass over.
 */
export type PassOver = { 
/**
 * Which pass.
 */
pass: Laid, 
/**
 * Which of its channels.
 */
channel: Channel, 
/**
 * What becomes black.
 */
black: number, 
/**
 * What becomes white.
 */
white: number, 
/**
 * Power of what lies between: above 1 darker, below 1 brighter.
 */
bend: number, 
/**
 * White for black.
 */
invert: boolean, };

/**
 * Values of a pass at one pixel.
 */
export type PassValues = { 
/**
 * Number of the pass.
 */
pass: number, 
/**
 * Its name.
 */
name: string, 
/**
 * Its role.
 */
role: Role, 
/**
 * Canonical values; empty outside the data window. Not finite ones are absent.
 */
canonical: Array<number | null>, 
/**
 * Values as stored.
 */
stored: Array<number | null>, };

/**
 * Parameters of Pattern.
 */
export type Pattern = { 
/**
 * What it is made of.
 */
form: PatternForm, 
/**
 * Size of its largest parts.
 */
size: number, 
/**
 * How much longer its parts are than wide.
 */
stretch: number, 
/**
 * How it lies: 0° level, 90° upright.
 */
angle: number, 
/**
 * How much finer parts lie within the larger ones.
 */
detail: number, 
/**
 * How strong finer parts are, from one size to the next.
 */
rough: number, 
/**
 * How far it bends itself.
 */
warp: number, 
/**
 * Another number is another pattern.
 */
seed: number, 
/**
 * Drive it to make the pattern change.
 */
evolution: number, 
/**
 * Whether its right edge fits its left one, and its lower edge its upper one.
 */
tileable: boolean, 
/**
 * The value that becomes the middle between the colours.
 */
threshold: number, 
/**
 * How hard the change between the colours is.
 */
contrast: number, 
/**
 * Linear Rec.709.
 */
first: [number, number, number], 
/**
 * How opaque the first colour is.
 */
first_opacity: number, 
/**
 * Linear Rec.709.
 */
second: [number, number, number], 
/**
 * How opaque the second colour is.
 */
second_opacity: number, };

/**
 * What a pattern is made of.
 */
export type PatternForm = "clouds" | "ridges" | "patches" | "cells" | "stripes" | "dots" | "drops";

/**
 * Parameters of Picture.
 */
export type Picture = { 
/**
 * The file; of footage that of the first frame.
 */
picture?: MediaFile | null, 
/**
 * The sequence of the element that it takes its frames from.
 */
sequence?: number | null, };

/**
 * Parameters of Height from the picture.
 */
export type PictureHeight = { 
/**
 * Share of red; a negative one counts from white.
 */
red: number, 
/**
 * Share of green.
 */
green: number, 
/**
 * Share of blue.
 */
blue: number, 
/**
 * Dark is high instead.
 */
invert: boolean, 
/**
 * Blur, full-resolution px.
 */
blur: number, 
/**
 * Shading broader than this is flattened, full-resolution px; 0 leaves it.
 */
flatten: number, 
/**
 * Factor about the middle.
 */
contrast: number, };

/**
 * Parameters of Place.
 */
export type Place = { 
/**
 * How the place is told.
 */
by: PlacedBy, 
/**
 * How far it is moved, right and down.
 */
moved: [number, number], 
/**
 * Width and height.
 */
scale: [number, number], 
/**
 * What stays where it is: a share of the frame, from its left and its upper edge.
 */
anchor: [number, number], 
/**
 * Against the clock.
 */
turn: number, 
/**
 * Leans to the right.
 */
shear: number, 
/**
 * The upper edge goes back.
 */
tilt: number, 
/**
 * The right edge goes back.
 */
swing: number, 
/**
 * How far away it is seen from, in widths of the frame: the nearer, the stronger the perspective.
 */
distance: number, 
/**
 * How far the upper left corner is moved, right and down.
 */
top_left: [number, number], 
/**
 * How far the upper right corner is moved.
 */
top_right: [number, number], 
/**
 * How far the lower right corner is moved.
 */
bottom_right: [number, number], 
/**
 * How far the lower left corner is moved.
 */
bottom_left: [number, number], 
/**
 * How the picture is read between its pixels.
 */
filter: Kernel, };

/**
 * A click that places a lamp.
 */
export type PlaceLamp = { 
/**
 * The document as it stands.
 */
shot: Draft, 
/**
 * Element.
 */
element: number, 
/**
 * The relight.
 */
step: number, 
/**
 * Place of the lamp in its list.
 */
lamp: number, 
/**
 * Frame; the first if not said.
 */
frame?: number, 
/**
 * Full-resolution px.
 */
x: number, 
/**
 * Full-resolution px.
 */
y: number, 
/**
 * How.
 */
how: PutLamp, };

/**
 * The lamp after the click.
 */
export type Placed = { 
/**
 * The lamp.
 */
lamp: Lamp, };

/**
 * How a place is told.
 */
export type PlacedBy = "numbers" | "corners";

/**
 * Parameters of As a plane.
 */
export type PlaneDepth = { 
/**
 * A place of the picture, full-resolution px.
 */
near_at: [number, number], 
/**
 * Depth there.
 */
near: number, 
/**
 * Another place.
 */
far_at: [number, number], 
/**
 * Depth there.
 */
far: number, 
/**
 * Turn of the lines of equal depth.
 */
tilt: number, 
/**
 * Whether only what the element covers gets a depth.
 */
only_covered: boolean, };

/**
 * Which planes of a picture are shown.
 */
export type Planes = "all" | "first" | "second" | "third" | "fourth" | "luminance";

/**
 * A polygon. Full-resolution px.
 */
export type PolygonPart = { 
/**
 * Its corners.
 */
corners: Array<[number, number]>, 
/**
 * Width of its soft edge.
 */
soft: number, };

/**
 * Steps with all that they need, away from any shot.
 */
export type Preset = { 
/**
 * Version of the document's form.
 */
format: number, 
/**
 * Name for people.
 */
name: string, 
/**
 * The steps, in order.
 */
steps: Array<Step>, 
/**
 * Mattes that their limits use by name, each from those before it.
 */
mattes?: Array<NamedMatte>, 
/**
 * Names of the passes that steps chose by number.
 */
passes?: Array<ChosenPass>, 
/**
 * How high the letters or the drawing were that it was made on, full-resolution px; none of a render.
 */
height?: number, };

/**
 * A preset in the list.
 */
export type PresetSummary = { 
/**
 * Number.
 */
id: string, 
/**
 * Name.
 */
name: string, 
/**
 * Its steps in sentences.
 */
sentences: Array<string>, 
/**
 * How high the letters were that it was made on, px; none of a render.
 */
height?: number | null, 
/**
 * Whether it has a picture.
 */
pictured: boolean, 
/**
 * When it was saved.
 */
made_at: string, };

/**
 * A picture of a document that is not saved: the value while dragging.
 */
export type Preview = { 
/**
 * The document.
 */
shot: Draft, 
/**
 * What to make a picture of.
 */
look: Look, };

/**
 * Chromaticities x, y of red, green, blue and white (CIE 1931).
 */
export type Primaries = number[];

/**
 * Numbers under the crosshair.
 */
export type Probe = { 
/**
 * Every pass.
 */
passes: Array<PassValues>, 
/**
 * The shot's picture there: linear RGBA.
 */
result: Array<number>, 
/**
 * The element's picture before all steps: linear RGBA.
 */
untouched: Array<number>, };

/**
 * How a bevel rises over its width.
 */
export type Profile = "chamfer" | "round" | "cove" | "step" | "drawn";

/**
 * Parameters of UV from position.
 */
export type ProjectUv = { 
/**
 * What the texture is wrapped on.
 */
form: Form, 
/**
 * What it is fitted to: a matte of the element, or all of it.
 */
of?: number | null, 
/**
 * What holds it to an object that moves; else it is fitted to what is seen on each frame.
 */
held: HeldBy, 
/**
 * The frame on which it is fitted, of those that the shot has; it goes along from there.
 */
on_frame: number, 
/**
 * Turned about its upright axis; also where the seam lies.
 */
turn: number, 
/**
 * Leaning back.
 */
lean: number, 
/**
 * Leaning to the side.
 */
roll: number, 
/**
 * How large it is beside what it is fitted to.
 */
size: [number, number], };

/**
 * An ellipse that is dragged from where it is to where it should be. Full-resolution px.
 */
export type PushedEllipse = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Its middle, in the picture before.
 */
at: [number, number], 
/**
 * How far it is pushed, right and down.
 */
by: [number, number], 
/**
 * Half its width and half its height.
 */
size: [number, number], 
/**
 * How it lies, against the clock.
 */
lies: number, 
/**
 * How far it is turned, against the clock.
 */
turn: number, 
/**
 * How much larger it becomes.
 */
scale: number, 
/**
 * Share of it over which it lets go: 0 takes all of it along, 1 its middle only.
 */
softness: number, };

/**
 * How a click places a lamp.
 */
export type PutLamp = { "kind": "highlight" } | { "kind": "surface", 
/**
 * How far off it, scene units.
 */
lift: number, } | { "kind": "aim" };

/**
 * Where a quad of the frame of a region really is on another frame. Full-resolution px.
 */
export type PutRight = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * The frame.
 */
frame: number, 
/**
 * Corners on the frame of the region.
 */
from: [[number, number], [number, number], [number, number], [number, number]], 
/**
 * Where they are on this frame.
 */
to: [[number, number], [number, number], [number, number], [number, number]], };

/**
 * Parameters of Set the range.
 */
export type RangeDepth = { 
/**
 * What it measures, taken first.
 */
measure: Measure, 
/**
 * A depth as it is.
 */
from_near: number, 
/**
 * What that depth becomes.
 */
to_near: number, 
/**
 * Another depth as it is.
 */
from_far: number, 
/**
 * What that depth becomes; less than the near one reverses the depth.
 */
to_far: number, 
/**
 * Whether what lies outside is held at the ends.
 */
hold: boolean, };

/**
 * Parameters of Rays.
 */
export type Rays = { 
/**
 * Where they come from.
 */
from: [number, number], 
/**
 * Brightness from which on light is drawn out; 1 is white.
 */
threshold: number, 
/**
 * How far they reach: a share of the way from there to what is bright.
 */
length: number, 
/**
 * Linear Rec.709.
 */
tint: [number, number, number], 
/**
 * Factor on the light.
 */
intensity: number, };

/**
 * A pass that is read for its role.
 */
export type Reads = { 
/**
 * Its role.
 */
role: Role, 
/**
 * Whether it cannot be done without.
 */
required: boolean, };

/**
 * A choice of what is read for a role.
 */
export type ReadsPass = { 
/**
 * The role.
 */
role: Role, 
/**
 * Number of the pass, stored or extracted.
 */
pass: number, };

/**
 * Parameters of Recolour.
 */
export type Recolour = { 
/**
 * What black becomes, linear Rec.709.
 */
dark: [number, number, number], 
/**
 * What the middle of the brightness becomes.
 */
middle: [number, number, number], 
/**
 * What white becomes.
 */
light: [number, number, number], 
/**
 * From the picture's own colours to these.
 */
amount: number, };

/**
 * Parameters of Refocus.
 */
export type Refocus = { 
/**
 * Where the range that stays sharp begins.
 */
focus: number, 
/**
 * How far behind the focus everything stays sharp, too.
 */
sharp: number, 
/**
 * The picture, or the circles of confusion.
 */
shows: Shows, 
/**
 * How the size of the blur is said.
 */
blur: BlurBy, 
/**
 * Circle of a point infinitely far behind, full-resolution px across.
 */
far_px: number, 
/**
 * Circle of a point at half the distance of the focus, full-resolution px across.
 */
near_px: number, 
/**
 * Focal length ÷ opening.
 */
f_number: number, 
/**
 * Focal length, where the render's camera is not known.
 */
focal: number, 
/**
 * Width of the sensor.
 */
sensor: number, 
/**
 * How long a unit of the scene is: a small scene has a shallow focus.
 */
unit: number, 
/**
 * Largest circle, full-resolution px across.
 */
most: number, 
/**
 * Blades of the iris; fewer than 3 make a circle.
 */
blades: number, 
/**
 * Turn of the iris.
 */
rotation: number, 
/**
 * From straight blades to a circle.
 */
roundness: number, 
/**
 * Gain of what is bright and out of focus.
 */
highlights: number, 
/**
 * Luminance from which on the highlights' gain works.
 */
highlights_from: number, 
/**
 * Width of the picture's own soft edges: how far the colours of two surfaces mix there.
 */
rim: number, 
/**
 * How many frames to either side are looked at for what is hidden now and seen then; their motion passes say where it is.
 */
frames: number, };

/**
 * A failure in one sentence.
 */
export type Refusal = { 
/**
 * The sentence.
 */
error: string, };

/**
 * What the relief comes from.
 */
export type ReliefFrom = "height" | "normal_map";

/**
 * Parameters of Relight.
 */
export type Relight = { 
/**
 * The lamps.
 */
lamps: Array<Lamp>, 
/**
 * What the light falls on.
 */
albedo: AlbedoFrom, 
/**
 * Finishes of some objects; all else is the rest, whose finish follows.
 */
finishes: Array<Finish>, 
/**
 * Factor on the diffuse light.
 */
diffuse: number, 
/**
 * Light reaching round the edge of shadow.
 */
wrap: number, 
/**
 * Reflectance seen head-on; 0.04 is varnish, 0 none: a highlight on what is matt is worse than none on varnish.
 */
specular: number, 
/**
 * From mirror to chalk.
 */
roughness: number, 
/**
 * A metal has no diffuse light, and mirrors in its own colour.
 */
metalness: number, 
/**
 * Most that things are taken to be thick behind what is seen of them, for shadows: a share of their depth.
 */
thickness: number, };

/**
 * What would put a finding right.
 */
export type Remedy = { "kind": "convention", 
/**
 * The whole convention after it.
 */
convention: Convention, } | { "kind": "repair", 
/**
 * How.
 */
repair: Repair, } | { "kind": "camera", 
/**
 * The camera.
 */
camera: Camera, 
/**
 * The whole convention of the pass.
 */
convention: Convention, } | { "kind": "point_near_and_far" };

/**
 * One repair.
 */
export type Repair = { "kind": "fill" } | { "kind": "snap_edges" } | { "kind": "shift", 
/**
 * To the right.
 */
x: number, 
/**
 * Down.
 */
y: number, } | { "kind": "fit" } | { "kind": "flip_rows" } | { "kind": "divide_by_alpha" };

/**
 * Parameters of Re-texture.
 */
export type Retexture = { 
/**
 * Where the texture comes from.
 */
from: TextureFrom, 
/**
 * The picture.
 */
picture?: MediaFile | null, 
/**
 * The element whose picture it is: footage, lettering, a drawing, a pattern.
 */
element?: number | null, 
/**
 * What gets it: a matte of the element; else what *Only where* says, or all of it.
 */
on?: number | null, 
/**
 * Its middle, in UV.
 */
middle: [number, number], 
/**
 * Its width and height, in UV; a negative one turns it over.
 */
size: [number, number], 
/**
 * Against the clock, about its middle.
 */
turn: number, 
/**
 * What lies beyond its square.
 */
beyond: Beyond, 
/**
 * What its light is taken from.
 */
lit: LitBy, 
/**
 * The surface's own colour, linear Rec.709.
 */
own: [number, number, number], 
/**
 * How it meets the colour that was there.
 */
meets: Meets, 
/**
 * Factor on its colour.
 */
brightness: number, };

/**
 * Parameters of Reveal.
 */
export type Reveal = { 
/**
 * Depth up to which, or from which on, all stays.
 */
at: number, 
/**
 * Length of the way over which it fades beyond that.
 */
soft: number, 
/**
 * What stays.
 */
keeps: Keeps, 
/**
 * Width of the picture's own soft edges: how far the colours of two surfaces mix there.
 */
rim: number, };

/**
 * A revision in the history.
 */
export type RevisionSummary = { 
/**
 * Number.
 */
number: number, 
/**
 * Revision it was made on.
 */
parent: number | null, 
/**
 * What was done.
 */
label: string, 
/**
 * When.
 */
made_at: string, 
/**
 * Whether it brought files only.
 */
delivered: boolean, 
/**
 * The name that somebody gave it.
 */
name: string | null, };

/**
 * Where the eye is.
 */
export type Rock = { 
/**
 * Largest move of anything at the ends of the rocking, full-resolution px.
 */
amount: number, 
/**
 * −1 the left end, 1 the right one.
 */
phase: number, 
/**
 * Depth that stays where it is, scene units; in the middle of the depths if not said.
 */
still?: number, };

/**
 * The meaning of a pass, in canonical form (see the conventions in the crate documentation).
 */
export type Role = "beauty" | "alpha" | "depth" | "normal" | "position" | "rest" | "uv" | "motion" | "object_id" | "hashed_id" | "albedo" | "diffuse" | "clay" | "shadow" | "height" | "st_map" | "other";

/**
 * Steps to keep under a name.
 */
export type SavePreset = { 
/**
 * The document as it stands.
 */
shot: Draft, 
/**
 * Element.
 */
element: number, 
/**
 * Its steps.
 */
steps: Array<number>, 
/**
 * Frame of the picture; the first if not said.
 */
frame?: number, 
/**
 * Name.
 */
name: string, };

/**
 * A scale of ½ⁿ.
 */
export type Scale = number;

/**
 * A camera of a scene file.
 */
export type SceneCamera = { 
/**
 * Its name.
 */
name: string, 
/**
 * The camera, for the frame of the shot.
 */
camera: Camera, };

/**
 * The sentence of a step.
 */
export type Sentence = { 
/**
 * Element.
 */
element: number, 
/**
 * Step.
 */
step: number, 
/**
 * What it does.
 */
text: string, 
/**
 * Passes that it reads beside the picture.
 */
reads: Array<Reads>, 
/**
 * The parts of its matte in words; those of the matte with a name where it uses one alone.
 */
parts: Array<string>, };

/**
 * Numbered files of one kind.
 */
export type Sequence = { 
/**
 * Number that stays with the sequence.
 */
id: number, 
/**
 * Name with `#` for the digits of the frame number.
 */
name: string, 
/**
 * The files, by ascending frame number. A page is not told them.
 */
frames?: Array<SequenceFrame>, };

/**
 * One file of a sequence.
 */
export type SequenceFrame = { 
/**
 * Frame number.
 */
number: number, 
/**
 * The file, by what is in it.
 */
media: MediaId, 
/**
 * The name under which it came.
 */
file: string, };

/**
 * Where a shadow falls.
 */
export type ShadowFalls = "behind" | "within";

/**
 * A body.
 */
export type Shape = "ball" | "torus" | "cube" | "cone" | "cloth";

/**
 * Parameters of Shape the light.
 */
export type Shaping = { 
/**
 * Share of what faces right; below 0 left.
 */
right: number, 
/**
 * Share of what faces up; below 0 down.
 */
up: number, 
/**
 * Share of what faces the viewer; below 0 the rims.
 */
front: number, 
/**
 * What of the mix is left as it is.
 */
pivot: number, 
/**
 * How steeply the change comes in.
 */
gain: number, 
/**
 * Stops: as many up on one side as down on the other.
 */
exposure: number, 
/**
 * Power about middle grey on one side, its inverse on the other.
 */
contrast: number, 
/**
 * Saturation on one side, its inverse on the other.
 */
saturation: number, 
/**
 * Warmer on one side, cooler on the other.
 */
warmth: number, 
/**
 * Which tones are changed.
 */
tones: Tones, 
/**
 * Luminance on a screen at which shadows end and lights begin.
 */
split: number, 
/**
 * Length of the ramp on both sides of the split.
 */
split_soft: number, };

/**
 * Parameters of Sharpen.
 */
export type Sharpen = { 
/**
 * How fine what is sharpened is.
 */
radius: number, 
/**
 * How much of it is added.
 */
amount: number, 
/**
 * What differs by less is left alone: grain.
 */
threshold: number, };

/**
 * A shot: elements over each other, the first lowest.
 */
export type Shot = { 
/**
 * Version of this document's form.
 */
format: number, 
/**
 * Name for people.
 */
name: string, 
/**
 * The frame, full-resolution px.
 */
display: Window, 
/**
 * First and last frame; a still has none.
 */
frames?: FrameRange, 
/**
 * Frames a second.
 */
rate: number, 
/**
 * Elements, lowest first.
 */
elements: Array<Element>, 
/**
 * What moves parameters over time.
 */
drives?: Array<Drive>, };

/**
 * A shot as it stands.
 */
export type ShotState = { 
/**
 * Number.
 */
id: string, 
/**
 * Revision.
 */
revision: number, 
/**
 * The document, without the files of its sequences.
 */
shot: Shot, 
/**
 * What moves, at the frame that was asked for.
 */
at_frame: AtFrame, 
/**
 * What undo would take back.
 */
undo: string | null, 
/**
 * What redo would bring again.
 */
redo: string | null, };

/**
 * A shot in the list.
 */
export type ShotSummary = { 
/**
 * Number.
 */
id: string, 
/**
 * Name.
 */
name: string, 
/**
 * Revision at which it stands.
 */
revision: number, 
/**
 * When it was made.
 */
created_at: string, 
/**
 * When it last changed.
 */
changed_at: string, 
/**
 * Whether it is out of the way.
 */
put_away: boolean, 
/**
 * Whether it is deleted; it can be brought back.
 */
deleted: boolean, };

/**
 * Special displays; a role that has none of the kind shows itself as usual.
 */
export type Showing = "usual" | "bands" | "false_colour" | "lit" | "checker" | "wheel" | "arrows" | "grid" | "stretch";

/**
 * What the step gives.
 */
export type Shows = "picture" | "circles";

/**
 * On which side of the edge a bevel lies.
 */
export type Side = "inside" | "outside" | "centred";

/**
 * A stroke that smears the picture along its path. Full-resolution px.
 */
export type SmearStroke = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Width of the brush.
 */
size: number, 
/**
 * Share of the brush over which it lets go.
 */
softness: number, 
/**
 * How much of the way what lies under it is taken along.
 */
strength: number, 
/**
 * Its path.
 */
points: Array<[number, number]>, };

/**
 * Parameters of Take the grain out.
 */
export type SmoothDepth = { 
/**
 * How far around a pixel samples are taken from, full-resolution px.
 */
radius: number, 
/**
 * Difference of depth, percent of the depth, up to which it is grain and not an edge.
 */
grain: number, };

/**
 * Parameters of Soft shadow.
 */
export type SoftShadow = { 
/**
 * What throws it; a matte of the element or its own outline.
 */
of?: number | null, 
/**
 * Where it falls.
 */
falls: ShadowFalls, 
/**
 * Where the light comes from: 0° from the right, 90° from above.
 */
from: number, 
/**
 * How far it lies from what throws it.
 */
offset: number, 
/**
 * How much larger it is than what throws it.
 */
spread: number, 
/**
 * Its blur.
 */
soft: number, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * How opaque it is.
 */
opacity: number, };

/**
 * Parameters of Solid.
 */
export type Solid = { 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * How opaque it is.
 */
opacity: number, };

/**
 * Channels of a media file.
 */
export type Source = { 
/**
 * The file, by what is in it.
 */
media: MediaId, 
/**
 * The name under which it came, so that another machine can find it beside the shot file.
 */
file: string, 
/**
 * Part of the file.
 */
part: number, 
/**
 * Channel names in canonical order.
 */
channels: Array<string>, 
/**
 * The sequence of the element that it takes its frames from; `media` and `file` are then the first.
 */
sequence?: number, };

/**
 * The axes that directions and places are given in.
 */
export type Space = "camera" | "world";

/**
 * Where a job stands.
 */
export type Stands = "running" | "paused" | "stopped" | "done";

/**
 * What a light stays with while the camera goes.
 */
export type StaysWith = "scene" | "camera";

/**
 * One change.
 */
export type Step = { 
/**
 * Number that stays with the step.
 */
id: number, 
/**
 * Whether it happens.
 */
on: boolean, 
/**
 * What it does.
 */
does: StepKind, 
/**
 * Passes that it reads instead of those that serve.
 */
reads?: Array<ReadsPass>, 
/**
 * Where it happens; everywhere if not said.
 */
only_where: Limit | null, 
/**
 * The track of its element that it goes along with, if it moves the picture: it is then told as of the frame of that
 * track's region.
 */
held?: number, 
/**
 * How it meets the picture.
 */
joins: Joins, };

/**
 * A step's kind with its parameters.
 */
export type StepKind = { "kind": "relight" } & Relight | { "kind": "shaping" } & Shaping | { "kind": "surround" } & Surround | { "kind": "match_light" } & MatchLight | { "kind": "cast_shadow" } & CastShadow | { "kind": "retexture" } & Retexture | { "kind": "emboss" } & Emboss | { "kind": "gloss" } & Gloss | { "kind": "edge_light" } & EdgeLight | { "kind": "light_wrap" } & LightWrap | { "kind": "outline" } & Outline | { "kind": "soft_shadow" } & SoftShadow | { "kind": "choke" } & Choke | { "kind": "place" } & Place | { "kind": "lens" } & LensBend | { "kind": "coordinate_map" } & CoordinateMap | { "kind": "warp" } & Warp | { "kind": "grid" } & Grid | { "kind": "refocus" } & Refocus | { "kind": "motion_blur" } & MotionBlur | { "kind": "flow_loop" } & FlowLoop | { "kind": "haze" } & Haze | { "kind": "distance" } & Distance | { "kind": "reveal" } & Reveal | { "kind": "pass_over" } & PassOver | { "kind": "exposure" } & Exposure | { "kind": "colour" } & Colour | { "kind": "curves" } & Curves | { "kind": "recolour" } & Recolour | { "kind": "blur" } & Blur | { "kind": "graded_blur" } & GradedBlur | { "kind": "vignette" } & Vignette | { "kind": "grain" } & Grain | { "kind": "glow" } & Glow | { "kind": "rays" } & Rays | { "kind": "sharpen" } & Sharpen;

/**
 * Parameters of Light from all around.
 */
export type Surround = { 
/**
 * What is all around.
 */
from: SurroundFrom, 
/**
 * The picture: twice as wide as high, its middle straight ahead.
 */
picture?: MediaFile | null, 
/**
 * The element whose picture it is, as a lat-long.
 */
element?: number | null, 
/**
 * How many bars stand all around.
 */
bars: number, 
/**
 * Turned to the right.
 */
turn: number, 
/**
 * Tilted up.
 */
tilt: number, 
/**
 * Linear Rec.709.
 */
colour: [number, number, number], 
/**
 * Factor on the light.
 */
intensity: number, 
/**
 * How strongly things near by hide the light, where there are positions and a camera.
 */
occlusion: number, 
/**
 * How far around a place things hide the light.
 */
reach: number, 
/**
 * What the light falls on.
 */
albedo: AlbedoFrom, 
/**
 * Finishes of some objects; all else is the rest, whose finish follows.
 */
finishes: Array<Finish>, 
/**
 * Factor on the diffuse light.
 */
diffuse: number, 
/**
 * Reflectance seen head-on; 0.04 is varnish, 0 none.
 */
specular: number, 
/**
 * From mirror to chalk.
 */
roughness: number, 
/**
 * A metal has no diffuse light, and mirrors in its own colour.
 */
metalness: number, };

/**
 * Where the light comes from.
 */
export type SurroundFrom = "sky" | "panels" | "bars" | "picture" | "element";

/**
 * Remedies to be taken in one edit.
 */
export type TakeRemedies = { 
/**
 * Revision at which the person sees the shot.
 */
base: number, 
/**
 * What it is called in the history.
 */
label: string, 
/**
 * The element.
 */
element: number, 
/**
 * Frame at which it was looked at.
 */
frame: number, 
/**
 * Whose remedies; each must still be found.
 */
findings: Array<Chosen>, };

/**
 * What to make a picture of.
 */
export type Target = { "kind": "shot" } | { "kind": "after", 
/**
 * The element.
 */
element: number, 
/**
 * The step.
 */
step: number, } | { "kind": "before", 
/**
 * The element.
 */
element: number, 
/**
 * The step.
 */
step: number, } | { "kind": "gives", 
/**
 * The element.
 */
element: number, 
/**
 * The step.
 */
step: number, } | { "kind": "untouched", 
/**
 * The element.
 */
element: number, } | { "kind": "pass", 
/**
 * The element.
 */
element: number, 
/**
 * The pass.
 */
pass: number, } | { "kind": "placed_pass", 
/**
 * The element.
 */
element: number, 
/**
 * The pass.
 */
pass: number, } | { "kind": "matte", 
/**
 * The element.
 */
element: number, 
/**
 * The matte.
 */
matte: number, } | { "kind": "placed_matte", 
/**
 * The element.
 */
element: number, 
/**
 * The matte.
 */
matte: number, } | { "kind": "limit", 
/**
 * The element.
 */
element: number, 
/**
 * The step.
 */
step: number, } | { "kind": "finding", 
/**
 * The element.
 */
element: number, 
/**
 * The pass.
 */
pass: number, 
/**
 * What was found.
 */
finding: FindingKind, };

/**
 * Where a texture comes from.
 */
export type TextureFrom = "checks" | "picture" | "element";

/**
 * Parameters of Height from a texture.
 */
export type TextureHeight = { 
/**
 * Where the texture comes from.
 */
from: TextureFrom, 
/**
 * The picture.
 */
picture?: MediaFile | null, 
/**
 * The element whose picture it is: drops, grime, a pattern, lettering.
 */
element?: number | null, 
/**
 * What gets it: a matte of the element, or all of it.
 */
on?: number | null, 
/**
 * Whether dark rises instead of bright.
 */
invert: boolean, 
/**
 * Its middle, in UV.
 */
middle: [number, number], 
/**
 * Its width and height, in UV; a negative one turns it over.
 */
size: [number, number], 
/**
 * Against the clock, about its middle.
 */
turn: number, 
/**
 * What lies beyond its square.
 */
beyond: Beyond, };

/**
 * What is told of a step.
 */
export type Told = { 
/**
 * What it found out, a sentence each.
 */
found: Array<string>, 
/**
 * Where what was solved does not fit what it was solved from.
 */
misses: Array<Miss>, 
/**
 * How often its element's picture is sampled, and what that costs: a sentence; none without a move.
 */
sampled?: string | null, 
/**
 * What the shot's picture covers, with what lies beyond the frame; full-resolution px.
 */
covers?: Window | null, 
/**
 * The frame of its element, in which places of moves are told; full-resolution px.
 */
frame: Window, 
/**
 * Of a step with lights: rows of the 3×4 matrix from camera space as it is on the first frame into that of this frame, where
 * the camera goes.
 */
since_first?: Array<number> | null, 
/**
 * Of an element that is text: where a caret stands before each character and after the last, top and bottom, where the
 * element is put; full-resolution px of the shot. None for one that is not seen.
 */
carets: Array<[[number, number], [number, number]] | null>, };

/**
 * Which tones are changed.
 */
export type Tones = "all" | "shadows" | "lights";

/**
 * A plane of an element's untouched picture.
 */
export type Track = { 
/**
 * Number that stays with it.
 */
id: number, 
/**
 * Name for people.
 */
name: string, 
/**
 * The frame on which its region is drawn; what is held to it is given as it lies there.
 */
at: number, 
/**
 * Corners of the region, one way round from the upper left. Full-resolution px.
 */
corners: [[number, number], [number, number], [number, number], [number, number]], 
/**
 * A named matte of the element: what it shows on that frame does not belong to the plane.
 */
left_out?: number, 
/**
 * What it is followed by.
 */
by?: FollowedBy, 
/**
 * Where it was found on each frame.
 */
found?: MediaFile, 
/**
 * What was put right by hand.
 */
put_right?: Array<PutRight>, };

/**
 * A track as it is seen at a frame.
 */
export type TrackSeen = { 
/**
 * The element.
 */
element: number, 
/**
 * Its track.
 */
track: number, 
/**
 * From the frame of its region to this one: rows of the projective map, px.
 */
by: [[number, number, number], [number, number, number], [number, number, number]], 
/**
 * What was found on this frame, if it was looked at.
 */
found?: TrackedFrame | null, 
/**
 * How well it fits on each frame that was looked at.
 */
frames: Array<TrackedFit>, };

/**
 * How well a track fits on a frame.
 */
export type TrackedFit = { 
/**
 * The frame.
 */
frame: number, 
/**
 * Share of the region that is seen and looks as it did.
 */
fits: number, 
/**
 * How far the corners may be off, px.
 */
unsure: number, };

/**
 * The region on one frame.
 */
export type TrackedFrame = { 
/**
 * The frame.
 */
frame: number, 
/**
 * Corners there, px from the frame's upper left corner.
 */
corners: [[number, number], [number, number], [number, number], [number, number]], 
/**
 * Share of the region that is seen and looks as it did; 0 where it was not found.
 */
fits: number, 
/**
 * How far the corners may be off, px.
 */
unsure: number, };

/**
 * How linear light becomes codes of a screen.
 */
export type Transform = "srgb" | "rec709" | "neutral" | "raw";

/**
 * Where v = 0 lies.
 */
export type UvOrigin = "bottom" | "top";

/**
 * How to show a pass.
 */
export type View = { 
/**
 * Stops, for colour.
 */
exposure: number, 
/**
 * Behind transparent pixels.
 */
backdrop: Backdrop, 
/**
 * The depths shown as white and as black; by default the pass's own range without its background.
 */
range: [number, number] | null, 
/**
 * Power on what is shown, 1 = none; above 1 lifts the darks.
 */
gamma: number, 
/**
 * Which planes.
 */
planes: Planes, 
/**
 * The view transform of colour.
 */
transform: Transform, 
/**
 * A special display.
 */
showing: Showing, };

/**
 * Parameters of Vignette.
 */
export type Vignette = { 
/**
 * Its middle: a share of the frame, from its left and its upper edge.
 */
middle: [number, number], 
/**
 * Where it is half done: a share of half the frame's width and height.
 */
size: [number, number], 
/**
 * From a hard edge to one that begins in the middle.
 */
soft: number, 
/**
 * By how much it darkens outside; positive brightens.
 */
stops: number, };

/**
 * Undo or redo.
 */
export type Walk = { 
/**
 * Revision at which the person sees the shot.
 */
base: number, };

/**
 * Parameters of Warp.
 */
export type Warp = { 
/**
 * Ellipses, each dragged from where it is to where it should be; all of them at once.
 */
pushes: Array<PushedEllipse>, 
/**
 * Strokes that smear what the pushes made, one after the other.
 */
smears: Array<SmearStroke>, 
/**
 * How the picture is read between its pixels.
 */
filter: Kernel, };

/**
 * A half-open rectangle of pixels: columns `x .. x + width`, rows `y .. y + height`.
 *
 * The origin may be negative (overscan). Row 0 of a display window is the top row.
 */
export type Window = { 
/**
 * Leftmost column.
 */
x: number, 
/**
 * Topmost row.
 */
y: number, 
/**
 * Columns.
 */
width: number, 
/**
 * Rows.
 */
height: number, };

/**
 * What is written of each frame of a range.
 */
export type Wish = { 
/**
 * What to write.
 */
target: Target, 
/**
 * As what.
 */
form: FileForm, 
/**
 * Name of the files without their ending; its # stand for the digits of the frame's number.
 */
name: string, 
/**
 * Folder into which they are put as they are written, below the one that the server has for it; without one they are
 * kept by the server.
 */
folder?: string, };

/**
 * Layers that may go along.
 */
export type With = "untouched" | "passes" | "mattes" | "lights";

/**
 * What becomes of coordinates outside 0..1.
 */
export type Wrap = "keep" | "repeat" | "clamp";
