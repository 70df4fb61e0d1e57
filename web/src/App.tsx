import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { Refusal } from "./api/client";
import { useSignedOut } from "./api/signedOut";
import { isNew } from "./features/begin/begin";
import { JoinScreen } from "./features/session/JoinScreen";
import { MailsScreen } from "./features/session/MailsScreen";
import { ForgottenScreen, ResetScreen } from "./features/session/ResetScreens";
import { SignIn } from "./features/session/SignIn";
import { useSession } from "./features/session/session";
import { SignInAgain } from "./features/session/SignInAgain";
import { NotFound } from "./features/shell/NotFound";
import { lastSite, Shell } from "./features/shell/Shell";
import { screenOf } from "./screens";
import { Trouble } from "./ui/Trouble";
import { useFocusKept } from "./ui/useFocusKept";
import { Waiting } from "./ui/Waiting";

const Almanac = screenOf[""];
const BeginScreen = lazy(() => import("./features/begin/BeginScreen"));
const AllBlogs = lazy(() => import("./features/shell/AllBlogs"));
const NewBlogScreen = lazy(() => import("./features/begin/NewBlogScreen"));

/** What every address shows until the program has been set up. */
function Begin() {
  return (
    <Suspense fallback={<Waiting what="the first page" />}>
      <BeginScreen />
    </Suspense>
  );
}

export function App() {
  useFocusKept();
  if (isNew()) return <Begin />;
  return (
    <Routes>
      <Route path="/sign-in" element={<SignIn />} />
      <Route path="/forgotten" element={<ForgottenScreen />} />
      <Route path="/reset" element={<ResetScreen />} />
      <Route path="/mails" element={<MailsScreen />} />
      <Route path="/join" element={<JoinScreen />} />
      <Route path="/*" element={<SignedIn />} />
    </Routes>
  );
}

/** Everything that needs a session: without one, on to the sign-in and back. */
function SignedIn() {
  const session = useSession();
  const out = useSignedOut();
  const here = useLocation();
  if (session.isPending) return <Waiting what="your blogs" />;
  if (session.error instanceof Refusal && session.error.status === 401) {
    return <Navigate to="/sign-in" replace state={{ back: here.pathname + here.search }} />;
  }
  if (session.error) return <Trouble error={session.error} retry={() => void session.refetch()} />;
  const last = localStorage.getItem(lastSite);
  const first = session.data.sites.find((s) => s.slug === last) ?? session.data.sites[0];
  return (
    <Suspense fallback={<Waiting what="the screen" />}>
      {out && <SignInAgain me={session.data} />}
      <Routes>
        <Route path="/:site" element={<Shell me={session.data} />}>
          <Route index element={<Almanac />} />
          <Route path="posts" element={<screenOf.posts />} />
          <Route path="write/:id" element={<screenOf.write />} />
          <Route path="edits/:id" element={<screenOf.edits />} />
          <Route path="overdue" element={<screenOf.overdue />} />
          <Route path="rhythm" element={<screenOf.rhythm />} />
          <Route path="rules" element={<screenOf.rules />} />
          <Route path="rules/new/:kind" element={<screenOf.rule />} />
          <Route path="rules/:id" element={<screenOf.rule />} />
          <Route path="upkeep" element={<screenOf.upkeep />} />
          <Route path="tours" element={<screenOf.tours />} />
          <Route path="tours/:id" element={<screenOf.tour />} />
          <Route path="results" element={<screenOf.results />} />
          <Route path="notice/:post/:rule" element={<screenOf.notice />} />
          <Route path="forecast" element={<screenOf.forecast />} />
          <Route path="logbook" element={<screenOf.logbook />} />
          <Route path="settings/:part?" element={<screenOf.settings />} />
          <Route path="import" element={<screenOf.import />} />
          <Route path="import/:id" element={<screenOf.imported />} />
          <Route path="pictures" element={<screenOf.pictures />} />
          <Route path="channels" element={<screenOf.channels />} />
          <Route path="prepared" element={<screenOf.prepared />} />
          <Route path="webhooks" element={<screenOf.webhooks />} />
          <Route path="comments" element={<screenOf.comments />} />
          <Route path="people" element={<screenOf.people />} />
          <Route path="account" element={<screenOf.account />} />
          <Route path="*" element={<NotFound me={session.data} />} />
        </Route>
        <Route path="/new-blog" element={<NewBlogScreen />} />
        <Route path="/all-blogs" element={<AllBlogs me={session.data} />} />
        <Route path="*" element={<Navigate to={first ? `/${first.slug}` : "/new-blog"} replace />} />
      </Routes>
    </Suspense>
  );
}
