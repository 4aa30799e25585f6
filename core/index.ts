/** What core offers to the other packages; all else is its own. Sorted by place, then by name. */
export * from './batch/index.ts';
export { type Problem, problemOf, ShaleError } from './errors.ts';
export { writeEdl } from './exchange/edl.ts';
export { writeMarkerTable } from './exchange/markerTable.ts';
export { editShots } from './exchange/ofPlan.ts';
export { writeOtio } from './exchange/otio.ts';
export { type Anchor, listKind, markersFrom, timecodeStart } from './exchange/toMarkers.ts';
export { shotsFrom } from './exchange/toShots.ts';
export {
  type CodecId,
  codecRecord,
  codecs,
  type Format,
  formatWords,
  isVideoFormat,
  pictureFormats,
  type StillId,
  stills,
  stillWrites,
  type WrittenStillId,
} from './formats/index.ts';
export type { CodecRecord, Container, StillRecord } from './formats/record.ts';
export { type Field, type FieldForm, formOf } from './formats/field.ts';
export { exrCompressionSchema, type SettingName, writeSettings } from './formats/settings.ts';
export { type VideoCase, type VideoFieldName, videoFields } from './formats/videoFields.ts';
export { receiverNameFields, receiverPictureFields } from './receiver/fields.ts';
export { mendedByNames, mendingSpec } from './naming/mend.ts';
export { freeName } from './naming/names.ts';
export { planRename } from './naming/rename.ts';
export { faultCodes, relationKinds, type RenamePlan, type ToName } from './naming/renamePlan.ts';
export {
  type NameRule,
  type NameRuleInput,
  type NameRuleKind,
  type NamingSpec,
  type NamingSpecInput,
  namingSpecSchema,
  newRule,
  renameModeSchema,
  type RuleOf,
} from './naming/rules.ts';
export { modeWords, namingSentence, ruleWords } from './naming/sentence.ts';
export { separatorWords } from './naming/separators.ts';
export {
  fieldWords,
  fileName,
  numberFields,
  parseTemplate,
  stemOf,
  templatePattern,
  textFields,
} from './naming/template.ts';
export { nameValues } from './naming/values.ts';
export {
  type ClipFacts,
  type Fields,
  fieldsSchema,
  fieldsWords,
  type Matrix,
  matrixWords,
  picturesAfter,
  type VideoRange,
} from './numbering/clipFacts.ts';
export {
  changeOf,
  enterReadings,
  type FrameColumns,
  type FrameProblem,
  type FrameReadings,
  Kinds,
  noReadings,
  problemsOf,
  stampOf,
} from './numbering/columns.ts';
export {
  type Alike,
  besideEachOther,
  conclude,
  type Described,
  describeFolder,
  describeSingle,
  findingsOf,
  inOrder,
  namesOf,
  singleFindings,
  weightParts,
} from './numbering/describe.ts';
export { clipFindings, damagedPictures } from './numbering/findings/clips.ts';
export { damageCodes, findingOfProblem, findingWords, isFindingCode } from './numbering/findings/codes.ts';
export { alikePlaces } from './numbering/findings/contents.ts';
export { delaysOf, evenRate, rateOfDelays } from './timing/delays.ts';
export { lighterOf, lighterWords } from './timing/lighter.ts';
export { isStillWriting, type Moment, quietAfter } from './numbering/findings/weights.ts';
export { type FrameNumber } from './numbering/frameNumber.ts';
export { gapsIn, tilesIn } from './numbering/gaps.ts';
export { groupNames } from './numbering/group.ts';
export { fileKind } from './numbering/kinds.ts';
export { numbersIn } from './numbering/scanName.ts';
export { frameName, frameOfName, loneNumber, parsePattern, type Pattern, printPattern } from './numbering/pattern.ts';
export { expressionOf, isWild } from './numbering/wildcard.ts';
export {
  type Coverage,
  coverageCount,
  coverageOf,
  frameRangeSchema,
  covers,
  frameAt,
  type FrameRange,
  framesOf,
  intersect,
  missingFrom,
  parseCoverage,
  printCoverage,
} from './numbering/ranges.ts';
export {
  asksForLook,
  type Facts,
  factsSchema,
  fileOfFrame,
  type Finding,
  frameCount,
  frameSpan,
  hasFrames,
  isAnimation,
  isBeingWritten,
  hasSound,
  isConvertible,
  isVideo,
  type SampleFormat,
  sampleFrames,
  sampleSchema,
  type Severity,
  type Source,
  sourceSchema,
} from './numbering/source.ts';
export { versionIn, withOlderVersions } from './numbering/versions.ts';
export { alphaEvidence, type AlphaEvidence, alphaEvidenceSchema } from './pixels/alphaEvidence.ts';
export {
  type AlphaKind,
  alphaKindSchema,
  type DeclaredTransfer,
  declaredTransferSchema,
  pixelAspectSchema,
  type Primaries,
  primariesSchema,
  type Transfer,
  transferSchema,
} from './pixels/colourNames.ts';
export { compareImages, type Difference } from './pixels/compare.ts';
export { makeConverter } from './pixels/convert.ts';
export { fitToShape, isOfShape } from './pixels/fit.ts';
export { boxAround, centredBox, contentBox, crop, orient, repeatEdge } from './pixels/geometry.ts';
export { filled } from './pixels/filled.ts';
export { halfTable, numberToHalf } from './pixels/half.ts';
export {
  areAlike,
  greyToColour,
  hasAlphaChannel,
  type Image,
  isFloat,
  makeSamples,
  maxCode,
  sampleWords,
} from './pixels/image.ts';
export { luma709 } from './pixels/luma.ts';
export type { Kernel } from './pixels/kernel.ts';
export { resample, type ResamplePass } from './pixels/resample.ts';
export { screens } from './pixels/key.ts';
export {
  alphaPicture,
  lookAtResult,
  type LookView,
  lookViewSchema,
  lossPicture,
  markColours,
  statusPicture,
  statusTones,
} from './pixels/look.ts';
export { blendPictures, weavePictures } from './pixels/mix.ts';
export { type AlphaFrom, alphaFromSchema } from './pixels/operations/alphaFrom.ts';
export { type Beside, type Colour, colourOfHex, hexOf } from './pixels/operations/common.ts';
export { type Box, boxSchema } from './pixels/operations/crop.ts';
export { keySchema } from './pixels/operations/key.ts';
export { levelsSchema } from './pixels/operations/levels.ts';
export { isOverSource, overColourSchema, overSourceSchema } from './pixels/operations/over.ts';
export { padSchema } from './pixels/operations/pad.ts';
export { filterSchema, filterWords, resizeSchema } from './pixels/operations/resize.ts';
export { orientationWords, uprightBy } from './pixels/orientation.ts';
export { aspectAfter, type OperationKey, operations, type Picture, turnedSize, untouched } from './pixels/picture.ts';
export type { Converter, Others } from './pixels/plain.ts';
export { chromaticities, toXyzUnder } from './pixels/primaries.ts';
export { quantiser } from './pixels/quantise.ts';
export {
  addCounts,
  alphaOutSchema,
  alphaOutWords,
  noCounts,
  ofAll,
  type PixelCounts,
  type Recipe,
  writesAlpha,
} from './pixels/recipe.ts';
export { isBlank, slate } from './pixels/slate.ts';
export { curves, linearToSrgb, srgbToLinear } from './pixels/transfer.ts';
export { markBits } from './pixels/ending.ts';
export { type Letters, writeOver } from './pixels/writeOver.ts';
export { alignedFrame, type Alignment, timedOf } from './plan/align.ts';
export { digestOf, digestOfMaking, digestOfPlan } from './plan/digest.ts';
export {
  c4Of,
  handedName,
  type HashedFile,
  type HashListHead,
  type Listed as ListedInManifest,
  readSums,
  writeFileTable,
  writeHashList,
  writeSums,
} from './exchange/manifest.ts';
export {
  type Compared,
  comparedPictures,
  comparedWords,
  reportRows,
  worstFirst,
  writeReport,
} from './exchange/report.ts';
export { psnrOf, type Similarity, similarityOf } from './pixels/similarity.ts';
export type { Given } from './plan/given.ts';
export { lossSentence, measuredLosses } from './plan/losses.ts';
export { makePlan } from './plan/make.ts';
export {
  askedOthers,
  keptSource,
  type OtherFile,
  otherFiles,
  type PlannedOther,
  type PlannedSource,
  type Role,
} from './plan/others.ts';
export { sizeOfPlan } from './plan/pictureProblems.ts';
export { type Mixed, placeOfFrame } from './plan/places.ts';
export {
  type Loss,
  lossSchema,
  type Plan,
  type PlanRun,
  planRunSchema,
  planSchema,
  problemSchema,
} from './plan/plan.ts';
export {
  type Estimate,
  estimateSchema,
  type Failure,
  failureSchema,
  type WrittenVideo,
  pixelCountsSchema,
  type Receipt,
  asKeptNow,
  type ReadFile,
  readFileSchema,
  receiptSchema,
  type Written,
  writtenSchema,
  writtenBesideSchema,
} from './plan/receipt.ts';
export { besideName, type Into, plainPattern, writtenAs } from './plan/into.ts';
export { asStills, type PlanRow, resultsOf, rowCount, rowsOf, shotDeclaration, shotSource } from './plan/rows.ts';
export { roomWanted } from './plan/room.ts';
export { changesTime, type InTime, resultsInTime, type SeenFrame } from './plan/inTime.ts';
export { ratesOf, resultCount } from './plan/runs.ts';
export { type Control, printSentence, sentenceOf, type SentencePart } from './plan/sentence.ts';
export { placesAfterFrames, soundPart, titleCount } from './plan/soundPart.ts';
export { kindOfSum, type SumKind, sumOf, sumWords } from './plan/sum.ts';
export { noTally, summarise, tally, type Tally } from './plan/summarise.ts';
export { type GivenHolds, leastForMotion } from './plan/timed.ts';
export { foldersRead, folderWritten, type Place, writeSameNames } from './plan/touched.ts';
export { readWith, type Unfit } from './readWith.ts';
export { type Breach, breachesOf, breachSchema } from './receiver/breaches.ts';
export { conformNaming, conformSpec, namingMend, specMend } from './receiver/conform.ts';
export { bayer, ditherNames, makeIndexer, type DitherName } from './pixels/indexed.ts';
export { groupedBy } from './grouped.ts';
export { conformBatch } from './receiver/conformBatch.ts';
export { heldPlan, heldRename, heldSource } from './receiver/held.ts';
export { type Receiver, receiverFileSchema, receiverSchema } from './receiver/receiver.ts';
export { receiverRuleNames, receiverRules } from './receiver/rules/index.ts';
export { receiverSentences } from './receiver/sentences.ts';
export { shippedReceivers } from './receiver/shipped.ts';
export { type Loaded, type SeenPicture, strictRead } from './receiver/strict.ts';
export { type Burn, burnFault, type BurnField, burnFields, burnsText, burnText } from './spec/burn.ts';
export {
  alphaWords,
  type Declaration,
  declarationSchema,
  declare,
  type FactName,
  type Grounds,
  groundsWords,
  primariesWords,
  type Rule,
  numberRuleFor,
  ruleFor,
  ruleWordSchema,
  type RuleWord,
  transferWords,
  type Word,
  wordSchema,
} from './spec/declaration.ts';
export { allFindings } from './spec/declaredFindings.ts';
export { alsoWrite, startingPoints, type StartingPointName } from './spec/starts.ts';
export { formatRules, formatSchema, notReadWayOut, unreadAs } from './spec/formats.ts';
export { oneOfFile, specFileSchema, stackFileSchema } from './spec/handed.ts';
export {
  chosenMarkers,
  type Marked,
  markedSchema,
  type Marker,
  type MarkerColour,
  markerColours,
  markerColourSchema,
  markerFault,
  markersInOrder,
  markersSchema,
} from './spec/marker.ts';
export { hasAlphaIn, lightSpec, ofLayer, parseSpec, startingSpec, withFormat } from './spec/parse.ts';
export { type CarriedChannels, joinedIn, placeOf } from './spec/channels.ts';
export { damagedWords, missingWords, pictureRows, pictureSaid } from './spec/pictureWords.ts';
export { specRows, stackRows } from './spec/rows.ts';
export {
  damagedPolicySchema,
  missingPolicySchema,
  type Shot,
  shotSchema,
  type Spec,
  type SpecInput,
  specSchema,
  usualTemplate,
} from './spec/schema.ts';
export { unsaidColour } from './spec/told.ts';
export { type Between, betweenWords, isPlainTime, onesWords, plainTime, type TimeSpec } from './spec/time.ts';
export {
  chromaOf,
  containerOf,
  endingOf,
  keyDistanceOf,
  needsEven,
  pieceLength,
  soundCodecOf,
  takesAac,
  videoCase,
  videoSchema,
  type VideoSpec,
  isAnimationFormat,
  isByQuality,
  isLosslessVideo,
  videoWords,
} from './spec/video.ts';
export * from './limit/index.ts';
export { cleanLoops, cleanLoopSchema, type CleanLoop } from './timing/loop.ts';
export * from './standing/index.ts';
export {
  type Cadence,
  CadenceFinder,
  cadenceSchema,
  cadenceWords,
  type Difference3,
  holdsOf,
} from './timing/cadence.ts';
export { beginnings, clipTimes, type ClipTimes } from './timing/clipTimes.ts';
export { curvePoints, curveProblems, frameParts, type RetimeCurve, type TimeKey } from './timing/curve.ts';
export { driftPerMinute, printDrift } from './timing/drift.ts';
export { type Gauge, gauges, parseFeet, printFeet } from './timing/feet.ts';
export {
  compareRates,
  frameSeconds,
  gcd,
  makeRate,
  parseRate,
  printRate,
  rateNumber,
  printSeconds,
  type Rate,
  rateFraction,
  rateSchema,
  standardRates,
} from './timing/rate.ts';
export {
  channelCounts,
  type Channels,
  framesIn,
  parseSeconds,
  rawBytes,
  sameTime,
  secondsOf,
  sequenceBytes,
  sizeOfSource,
  slipAfter,
  timecodeWords,
  timeLeft,
  videoBytes,
} from './timing/reckon.ts';
export { mayDropFrames, parseTimecode, printTimecode, timecodeAfter } from './timing/timecode.ts';
export {
  lookedWords,
  memoryWords,
  type PlaybackWeight,
  printBits,
  type Weighed,
  weighedSchema,
  weightOf,
} from './timing/weight.ts';
export {
  channelNames,
  decibels,
  printLevel,
  silentBelow,
  silentSeconds,
  type SoundFacts,
  soundFactsSchema,
} from './sound/facts.ts';
export {
  gainTo,
  planSound,
  type SoundConversion,
  soundConversionSchema,
  type SoundFormatName,
  soundFormats,
  type SoundPlan,
  type SoundReceipt,
  soundReceiptSchema,
  type SoundWritten,
} from './sound/conversion.ts';
export {
  planSwap,
  type SoundSwap,
  soundSwapSchema,
  swapCodecs,
  type SwapPlan,
  type SwapReceipt,
  swapReceiptSchema,
} from './sound/swap.ts';
export { keepMix, type Mix, mixed, mixTo } from './sound/mix.ts';
export { Quantiser } from './sound/quantise.ts';
export { type Heard, heardFrom, type Lane, laneOf, sampleAt, type Under } from './sound/lane.ts';
export { SoundMeter } from './sound/meter.ts';
export { type Fraction, soundLength, soundShift } from './sound/placed.ts';
export { packWave, partsOfWave, unpackWave, type Wave, waveBetween, WaveMaker, waveOfSamples } from './sound/wave.ts';
export { comparePictures, type Comparison, comparisonSchema } from './viewing/measure.ts';
export { channelLetter, channelLetters, cutOff, printSample, samplesAt } from './viewing/samples.ts';
export { type ChannelScope, type Scopes, scopesOf, scopesSchema } from './viewing/scopes.ts';
export {
  displayParts,
  displayTable,
  type Looking,
  plainLooking,
  showDifference,
  type ShownChannel,
  shownChannels,
  showPacked,
  showView,
  warningColours,
} from './viewing/show.ts';
export { type Taken, takenAs, type View, viewOf } from './viewing/view.ts';
export {
  halvesIn,
  type PackedView,
  packPiece,
  packView,
  type Piece,
  pieceOf,
  type Precision,
  previewType,
  unpackPiece,
  unpackView,
} from './viewing/wire.ts';
export { exactBytes, orWords, plural, printBytes, someOf } from './words.ts';
