import { lazy, Suspense } from 'react'
import { Navigate, Route, Routes } from 'react-router'
import { ComparePage, ConfigurationsPage, ConfigurePage } from '../features/configurations'
import { BaselinePage, BaselinesPage } from '../features/baselines'
import { CasesPage } from '../features/cases'
import { ConcessionPage, ConcessionsPage } from '../features/concessions'
import { DifferencePage } from '../features/differences'
import { HealthPage } from '../features/health'
import { ImpactPage } from '../features/impact'
import { ReviewPage } from '../features/reviews'
import { ItemPage, LibraryPage } from '../features/library'
import { AuditPage, PeoplePage } from '../features/people'
import { ProductPage, ProductsPage, TimesPage } from '../features/products'
import { FullStructurePage, ResultPage } from '../features/structures'
import { titlePage } from '../ui/pageTitle'
import { ChoosePasswordPage } from './ChoosePasswordPage'
import { PageFault } from './PageFault'
import { SessionGate } from './SessionGate'
import { Shell } from './Shell'
import { t } from '../texts'

// The workshop brings the editor along, which the order desk does without.
const WorkshopPage = lazy(() => import('../features/workshop'))

export function App() {
  return (
    <PageFault>
      <Routes>
        <Route path="/password" element={<ChoosePasswordPage />} />
        <Route path="*" element={<SignedInPages />} />
      </Routes>
    </PageFault>
  )
}

function SignedInPages() {
  return (
    <SessionGate>
      <Shell>
        <Suspense fallback={<p className="p-8 quiet">{t('app.oneMoment')}</p>}>
          <Routes>
            <Route path="/" element={<Navigate to="/products" replace />} />
            <Route path="/products" element={<ProductsPage />} />
            <Route path="/products/:productId" element={<ProductPage />} />
            <Route path="/products/:productId/times" element={<TimesPage />} />
            <Route path="/workshop/:revisionId" element={<WorkshopPage />} />
            <Route path="/workshop/:revisionId/cases" element={<CasesPage />} />
            <Route path="/workshop/:revisionId/difference" element={<DifferencePage />} />
            <Route path="/workshop/:revisionId/health" element={<HealthPage />} />
            <Route path="/workshop/:revisionId/impact" element={<ImpactPage />} />
            <Route path="/workshop/:revisionId/review" element={<ReviewPage />} />
            <Route path="/workshop/:revisionId/structure" element={<FullStructurePage />} />
            <Route path="/configurations" element={<ConfigurationsPage />} />
            <Route path="/configure/:revisionId" element={<ConfigurePage />} />
            <Route path="/configurations/:configurationId" element={<ConfigurePage />} />
            <Route path="/baselines" element={<BaselinesPage />} />
            <Route path="/baselines/:baselineId" element={<BaselinePage />} />
            <Route path="/concessions" element={<ConcessionsPage />} />
            <Route path="/concessions/:concessionId" element={<ConcessionPage />} />
            <Route path="/structures/:structureId" element={<ResultPage />} />
            <Route path="/compare" element={<ComparePage />} />
            <Route path="/library" element={<Navigate to="/library/items" replace />} />
            <Route path="/library/:table" element={<LibraryPage />} />
            <Route path="/items/:number" element={<ItemPage />} />
            <Route path="/people" element={<PeoplePage />} />
            <Route path="/people/audit" element={<AuditPage />} />
            <Route path="*" element={<Lost />} />
          </Routes>
        </Suspense>
      </Shell>
    </SessionGate>
  )
}

const Lost = () => (
  <div className="p-10">
    <h1 className="text-lg font-semibold" ref={(h) => titlePage(h)}>
      {t('app.thereIsNothingAtThisAddress')}
    </h1>
    <p className="quiet">
      {t('app.itMayHaveBeenDeletedOr')}{' '}
      <a className="link" href="/products">
        {t('app.toTheProducts')}
      </a>
    </p>
  </div>
)
