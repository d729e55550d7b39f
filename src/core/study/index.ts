export { STUDIES } from './catalogue.ts';
export { type BarColumns, type Parameters, SOURCES, type StudyDefinition, type StudyLine, type StudyParameter } from './definition.ts';
export { type DaySpan, type VolumeProfile, lastDays, volumeProfile } from './levels.ts';
export { StudySeries } from './series.ts';
