import { Redo2, Undo2 } from 'lucide-react'
import { useState } from 'react'
import { Group, Panel } from 'react-resizable-panels'
import { sentenceOf, type Schemas } from '../../api/client'
import { Waiting } from '../../ui/Waiting'
import { KeepAsCase } from '../cases'
import { FillIn, Outcome, Clashes, Questions, DayChoice, SiteChoice } from '../bench'
import { AddFromRegister } from './AddFromRegister'
import { Divider, keepLayout, layout } from './layout'
import { useWorkshop } from './Workshop'
import { t } from '../../texts'

/** The model live, beside its worksheet: the questions as the order desk will see them, and what comes of the answers. */
export function WorkshopBench({ sites, onNextRevision }: { sites: Schemas['RevisionView']['sites']; onNextRevision: (() => void) | undefined }) {
  const { bench, revisionId, document, goToRow, model } = useWorkshop()
  const [keeping, setKeeping] = useState(false)
  const [filling, setFilling] = useState(false)
  const goTo = (assemblyId: string, rowId: string) => goToRow(assemblyId, rowId)
  return (
    <Group
      orientation="vertical"
      id="juniperfall.bench"
      className="h-full"
      defaultLayout={layout('bench')}
      onLayoutChanged={(l) => keepLayout('bench', l)}
    >
      <Panel id="questions" defaultSize="55%" minSize="15%">
        <div className="h-full overflow-auto p-3" role="region" aria-label={t('workshop.bench')}>
          <div className="quiet mb-1 flex flex-wrap items-center justify-between gap-x-2 text-sm">
            <i>{t('workshop.benchWorking', { working: bench.working && bench.answer ? t('workshop.workingItOut') : '' })}</i>
            <span className="flex flex-wrap items-center gap-1">
              <SiteChoice bench={bench} sites={sites} />
              <DayChoice bench={bench} />
              <button className="btn btn-ghost btn-sm" aria-label={t('workshop.undoOnTheBench')} disabled={!bench.canUndo} onClick={bench.undo}>
                <Undo2 className="size-3.5" />
              </button>
              <button className="btn btn-ghost btn-sm" aria-label={t('workshop.redoOnTheBench')} disabled={!bench.canRedo} onClick={bench.redo}>
                <Redo2 className="size-3.5" />
              </button>
              <button
                className="btn btn-ghost btn-sm whitespace-nowrap"
                aria-expanded={filling}
                disabled={!bench.answer?.valid}
                onClick={() => setFilling(!filling)}
              >
                {t('workshop.fillIn')}
              </button>
              {model.revision?.state === 'draft' && (
                <button className="btn btn-ghost btn-sm whitespace-nowrap" disabled={!bench.answer} onClick={() => setKeeping(true)}>
                  {t('workshop.keepAsCase')}
                </button>
              )}
              <button className="btn btn-ghost btn-sm" disabled={bench.picks.length === 0} onClick={bench.clear}>
                {t('workshop.clear')}
              </button>
            </span>
          </div>
          {keeping && <KeepAsCase revisionId={revisionId} modelId={document.id} bench={bench} onClose={() => setKeeping(false)} />}
          {filling && <FillIn revisionId={revisionId} bench={bench} onClose={() => setFilling(false)} />}
          {bench.error && <p className="fault">{sentenceOf(bench.error)}</p>}
          {!bench.answer && !bench.error && (
            <>
              <p className="quiet">{t('workshop.workingOutWhatCanBeHad')}</p>
              <Waiting />
            </>
          )}
          {bench.answer?.sections.length === 0 && bench.answer.clashes.length === 0 && (
            <p className="quiet">{t('workshop.nothingIsAskedYetAttributesOf')}</p>
          )}
          <Clashes bench={bench} revisionId={revisionId} goTo={goTo} />
          <Questions bench={bench} revisionId={revisionId} goTo={goTo} />
        </div>
      </Panel>
      <Divider flat />
      <Panel id="outcome" defaultSize="45%" minSize="10%">
        <Outcome revisionId={revisionId} bench={bench} goTo={goTo} belowParts={<AddFromRegister onNextRevision={onNextRevision} />} />
      </Panel>
    </Group>
  )
}
