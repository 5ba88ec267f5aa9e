import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { Families } from "../family/Families";
import { Welcome } from "../yard/Welcome";
import { Yard } from "../yard/Yard";
import { DriveScreens } from "./DriveScreens";
import { useEnterMoves } from "./enter";
import { useEvents } from "./events";
import { Failed } from "./Failed";
import { Frame } from "./Frame";
import { Here } from "./place";

// Making a family is seldom done at a drive: it comes along with its screens.
const EditFamily = lazy(() => import("../family/Editor").then((m) => ({ default: m.EditFamily })));
const NewFamily = lazy(() => import("../family/NewFamily").then((m) => ({ default: m.NewFamily })));
const FamilyPage = lazy(() => import("../family/FamilyPage").then((m) => ({ default: m.FamilyPage })));

export function App() {
  useEvents();
  useEnterMoves();
  const { pathname } = useLocation();
  return (
    <Here empty={<Welcome />}>
      <Failed key={pathname.split("/", 3).join("/")}>
        <Suspense
          fallback={
            <Frame where={null}>
              <p className="p-6">Reading…</p>
            </Frame>
          }
        >
          <Routes>
            <Route path="/" element={<Yard />} />
            <Route path="/families" element={<Families />} />
            <Route path="/families/new" element={<NewFamily />} />
            <Route path="/families/:name" element={<FamilyPage />} />
            <Route path="/families/:name/edit" element={<EditFamily />} />
            <Route path="/drives/:id" element={<Navigate to="plate" replace />} />
            <Route path="/drives/:id/:screen" element={<DriveScreens />} />
            <Route path="*" element={<Navigate to="/" replace />} />
          </Routes>
        </Suspense>
      </Failed>
    </Here>
  );
}
