/** The public door of the computation. Every quantity is SI unless its name says otherwise. */
export * from './units/units.ts';
export * from './air/air.ts';
export * from './air/vapourPressure.ts';
export * from './correction/standards.ts';
export * from './correction/translator.ts';
export * from './correction/numberState.ts';
export * from './job/job.ts';
export * from './job/changes.ts';
export * from './job/defaults.ts';
export * from './job/plausible.ts';
export * from './job/judgeable.ts';
export * from './bay/dayShape.ts';
export * from './plan/layDay.ts';
export * from './statistics/distributions.ts';
export * from './statistics/summary.ts';
export * from './statistics/localPolynomial.ts';
export * from './statistics/localSlopes.ts';
export * from './pull/findings.ts';
export * from './pull/gridCurve.ts';
export * from './pull/risingRun.ts';
export * from './pull/curve.ts';
export * from './pull/preparedPulls.ts';
export * from './pull/pullKind.ts';
export * from './pull/moments.ts';
export * from './pull/secondExport.ts';
export * from './pull/fingerprint.ts';
export * from './pull/frameBytes.ts';
export { ENGINE_VERSION, type VerdictConstants } from './verdict/engine/model.ts';
export type { BayMedians, LearnedNoise } from './verdict/engine/history.ts';
export type { WidthShares } from './verdict/engine/plugIn.ts';
export * from './verdict/percent.ts';
export * from './measures/declaredMeasure.ts';
export * from './measures/measureFacts.ts';
export * from './measures/channelReadings.ts';
export * from './measures/handReadings.ts';
export * from './measures/fullThrottle.ts';
export * from './measures/slopeWithin.ts';
export * from './measures/fade.ts';
export * from './measures/airAlone.ts';
export * from './measures/alsoSeen.ts';
export * from './measures/rollOn.ts';
export * from './logger/layLogger.ts';
export * from './logger/channelsInto.ts';
export * from './road/roadRun.ts';
export * from './road/speedLog.ts';
export * from './road/roadForecast.ts';
export {
  DEFAULT_TIMES,
  minutesBetweenRounds,
  type MorePulls,
  type Narrower,
  type PlannedRound,
  type PlanTimes,
} from './verdict/planning.ts';
export * from './verdict/outcome.ts';
export * from './verdict/conditionFindings.ts';
export * from './verdict/conditions.ts';
export { sideOfSetup, type NotUsed } from './verdict/selection.ts';
export * from './verdict/states.ts';
export * from './verdict/warmUp.ts';
export * from './verdict/judge.ts';
export { torqueCurve } from './verdict/endpoint.ts';
export * from './compare/schools.ts';
export * from './compare/curveFeatures.ts';
export * from './shootout/ranks.ts';
export * from './shootout/costs.ts';
export * from './shootout/frontier.ts';
export * from './shootout/crossed.ts';
export * from './shootout/ledger.ts';
export * from './shootout/standings.ts';
export * from './verdict/jointGains.ts';
export * from './gearing/gearing.ts';
export * from './gearing/useProfile.ts';
export * from './gearing/useGains.ts';
export * from './gearing/gearRuns.ts';
export * from './verdict/windowGains.ts';
export * from './job/weather.ts';
export * from './job/permanent.ts';
export * from './heat/coolDown.ts';
export * from './heat/heatCoefficient.ts';
export * from './heat/pausePlan.ts';
export * from './bay/jobDay.ts';
export * from './bay/houseMethod.ts';
export * from './bay/channelWords.ts';
export * from './bay/abortLimits.ts';
export * from './bay/pullDetector.ts';
export * from './bay/fadeProtocol.ts';
export * from './bay/gates.ts';
export * from './bay/roundProgress.ts';
export * from './plan/drawnOrder.ts';
export {
  comparePlans,
  planDay,
  plannedDaySees,
  planRequestOf,
  planSees,
  setupsForPlan,
  startingPlan,
  usualShape,
  type PlannedDay,
  type PlanRequest,
} from './plan/dayPlan.ts';
export * from './plan/planReach.ts';
export * from './plan/orders.ts';
export * from './plan/dayBlocks.ts';
export * from './plan/fittingMinutes.ts';
export * from './plan/planSees.ts';
export * from './plan/planWarnings.ts';
export * from './plan/extension.ts';
export * from './bay/setPoints.ts';
export * from './bay/coastDown.ts';
export * from './baseline/modelRange.ts';
export * from './faults/suspects.ts';
export * from './faults/faultSearch.ts';
export * from './bay/bayTrack.ts';
export * from './bay/liveMessages.ts';
export * from './verdict/bayPrior.ts';
export * from './verdict/bayRecord.ts';
export * from './seal/sealChecks.ts';
export * from './seal/sealedVerdict.ts';
export * from './seal/sharedPage.ts';
export * from './shelf/randomEffects.ts';
export * from './shelf/nextStudy.ts';
export * from './shelf/partSteps.ts';
export * from './shelf/shelf.ts';
export * from './bay/controlChart.ts';
export * from './bay/bayPoint.ts';
export * from './bay/bayCharts.ts';
