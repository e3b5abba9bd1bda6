import createClient from 'openapi-fetch'

import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Binned = Schemas['Binned']
export type BoardsOut = Schemas['BoardsOut']
export type Line = Schemas['LineOut']
/** What a list of boards to choose from needs. */
export type BoardName = Pick<BoardsOut['boards'][number], 'id' | 'job' | 'name' | 'title'>
export type BoardOut = Schemas['BoardOut']
export type StarterOut = Schemas['StarterOut']
export type HandbookOut = Schemas['HandbookOut']
export type HistoryOut = Schemas['HistoryOut']
export type Design = NonNullable<StarterOut['design']>
export type Device = Design['devices'][number]
export type Figure = Schemas['FiguresOut']['figures'][string]
export type Candidate = Figure['candidates'][number]
export type Offer = Schemas['OffersOut']['offers'][number]
export type Compared = Schemas['CompareOut']['methods'][number]
export type Finding = Design['findings'][number]
export type LineUpItem = Design['line_up'][number]
export type Drawing = Design['overload_band']
export type Problem = StarterOut['problems'][number]
export type StarterDocument = Schemas['StarterDocument']
export type Coordination = Design['coordination']
export type CatalogueOut = Schemas['CatalogueOut']
export type DevicesOut = Schemas['DevicesOut']
export type ImportOut = Schemas['ImportOut']
export type TableGuide = Schemas['TableGuide']
export type Preset = Schemas['PresetOut']
export type StartView = Schemas['StartOut']['start']
export type UsualLoad = Schemas['LoadsOut']['loads'][number]
export type PhaseLossView = Schemas['PhaseFailureOut']['sheet']
export type Unbalance = Schemas['UnbalanceOut']['result']
export type Ranges = NonNullable<Schemas['RangesOut']['ranges']>
export type Held = Ranges['held'][number]
export type TimeCurrentView = Schemas['TimeCurrentOut']['sheet']
export type CircuitView = Schemas['CircuitOut']['sheet']
export type CircuitDrawing = CircuitView['power']
export type Operated = CircuitView['operated'][number]
export type Timeline = Schemas['PlayOut']['timeline']
export type Frame = Timeline['frames'][number]
export type Mistake = Schemas['PlayOut']['mistakes'][number]
export type Proof = Schemas['ProofsOut']['proofs'][number]
export type ProofsOut = Schemas['ProofsOut']
export type Failure = Schemas['FailuresOut']['failures'][number]
export type Difference = Schemas['DifferenceOut']['difference']
export type ChoiceView = Schemas['ChoiceOut']['tried']
export type ChangeView = Schemas['ChangeOut']['change']
export type BuildView = Schemas['BuildOut']['sheet']
export type StageRow = BuildView['stages'][number]
export type WireRow = BuildView['wires'][number]
export type CheckRow = StageRow['checks'][number]
export type StepRow = StageRow['steps'][number]
export type Cause = Schemas['CausesOut']['causes'][number]
export type RecordView = Schemas['RecordOut']['sheet']
export type ItemRow = RecordView['groups'][number]['items'][number]
export type Trip = RecordView['trips'][number]
export type Seal = Schemas['SealOut']
export type Series = Schemas['SeriesOut']['series'][number]
export type MeterSettings = Schemas['MeterSettings']
export type QuickAnswer = Schemas['QuickOut']['quick']
export type Answer = NonNullable<QuickAnswer['answer']>
export type Practice = QuickAnswer['read']['practice']
export type ToFindOut = Ranges['find_out'][number]
export type FieldWords = Schemas['WordsOut']['fields'][number]
export type Term = Schemas['WordsOut']['glossary'][number]
export type Override = NonNullable<StarterDocument['overrides']>[number]
export type CircuitEdit = NonNullable<StarterDocument['circuit_edits']>[number]

export type Me = Schemas['MeOut']
export type Role = NonNullable<Me['role']>
export type PersonOut = Schemas['PersonOut']
export type MeterAddress = Schemas['MeterAddressOut']
export type AuditLine = Schemas['AuditLine']
export type Licence = Schemas['LicencesOut']['licences'][number]
export type StarterState = Schemas['StarterState']

export const client = createClient<paths>({ baseUrl: '/' })

const signedOut: (() => void)[] = []
/** Called when the server says that nobody has signed in. */
export function onSignedOut(tell: () => void): void {
  signedOut.push(tell)
}
const heard: ((response: Response) => void)[] = []
/** Called with every answer, the server's or one that this device has kept. */
export function onAnswer(tell: (response: Response) => void): void {
  heard.push(tell)
}
export const WORK = 'X-Work'
const AGAIN_MS = 300
/** The answer of a long request that the server has put into its queue; any other answer as it is. */
export async function answered(request: Headers, response: Response): Promise<Response> {
  const key = request.get(WORK)
  let answer = response
  while (answer.status === 202 && key) {
    await new Promise((done) => setTimeout(done, AGAIN_MS))
    answer = await fetch(`/api/requests/${key}/answer`)
  }
  return answer
}
client.use({
  async onResponse({ request, response }) {
    heard.forEach((tell) => tell(response))
    if (response.status === 401) signedOut.forEach((tell) => tell())
    return answered(request.headers, response)
  },
})

/** What a refused or failed request has to say, whatever went wrong. */
export function problemsOf(error: unknown): Problem[] {
  if (error && typeof error === 'object' && 'problems' in error) {
    return (error as { problems: Problem[] }).problems
  }
  return [{ field: 'request', message: 'the server did not answer', missing: false }]
}
