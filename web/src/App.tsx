import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { Refusal } from "./api/client";
import { JoinScreen } from "./features/session/JoinScreen";
import { ForgottenScreen, ResetScreen } from "./features/session/ResetScreens";
import { SignIn } from "./features/session/SignIn";
import { useSession } from "./features/session/session";
import { NotFound } from "./features/shell/NotFound";
import { lastSite, Shell } from "./features/shell/Shell";
import { Trouble } from "./ui/Trouble";
import { Waiting } from "./ui/Waiting";

const AlmanacScreen = lazy(() => import("./features/almanac/AlmanacScreen"));
const EditorScreen = lazy(() => import("./features/editor/EditorScreen"));
const ForecastScreen = lazy(() => import("./features/forecast/ForecastScreen"));
const RulesScreen = lazy(() => import("./features/rules/RulesScreen"));
const RuleScreen = lazy(() => import("./features/rules/RuleScreen"));
const LogbookScreen = lazy(() => import("./features/logbook/LogbookScreen"));
const SettingsScreen = lazy(() => import("./features/settings/SettingsScreen"));
const PostsScreen = lazy(() => import("./features/posts/PostsScreen"));
const PeopleScreen = lazy(() => import("./features/people/PeopleScreen"));
const AccountScreen = lazy(() => import("./features/people/AccountScreen"));
const OverdueScreen = lazy(() => import("./features/overdue/OverdueScreen"));
const RhythmScreen = lazy(() => import("./features/rhythm/RhythmScreen"));

export function App() {
  return (
    <Routes>
      <Route path="/sign-in" element={<SignIn />} />
      <Route path="/forgotten" element={<ForgottenScreen />} />
      <Route path="/reset" element={<ResetScreen />} />
      <Route path="/join" element={<JoinScreen />} />
      <Route path="/*" element={<SignedIn />} />
    </Routes>
  );
}

/** Everything that needs a session: without one, on to the sign-in and back. */
function SignedIn() {
  const session = useSession();
  const here = useLocation();
  if (session.isPending) return <Waiting what="your blogs" />;
  if (session.error instanceof Refusal && session.error.status === 401) {
    return <Navigate to="/sign-in" replace state={{ back: here.pathname + here.search }} />;
  }
  if (session.error) return <Trouble error={session.error} retry={() => void session.refetch()} />;
  const last = localStorage.getItem(lastSite);
  const first = session.data.sites.find((s) => s.slug === last) ?? session.data.sites[0];
  if (!first)
    return <Trouble error={new Error("You are not a member of any blog yet. Ask an owner to add you.")} />;
  return (
    <Suspense fallback={<Waiting what="the screen" />}>
      <Routes>
        <Route path="/:site" element={<Shell me={session.data} />}>
          <Route index element={<AlmanacScreen />} />
          <Route path="posts" element={<PostsScreen />} />
          <Route path="write/:id" element={<EditorScreen />} />
          <Route path="overdue" element={<OverdueScreen />} />
          <Route path="rhythm" element={<RhythmScreen />} />
          <Route path="rules" element={<RulesScreen />} />
          <Route path="rules/new/:kind" element={<RuleScreen />} />
          <Route path="rules/:id" element={<RuleScreen />} />
          <Route path="forecast" element={<ForecastScreen />} />
          <Route path="logbook" element={<LogbookScreen />} />
          <Route path="settings" element={<SettingsScreen />} />
          <Route path="people" element={<PeopleScreen />} />
          <Route path="account" element={<AccountScreen />} />
          <Route path="*" element={<NotFound me={session.data} />} />
        </Route>
        <Route path="*" element={<Navigate to={`/${first.slug}`} replace />} />
      </Routes>
    </Suspense>
  );
}
