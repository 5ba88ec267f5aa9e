import { Navigate, Route, Routes, useLocation } from "react-router";
import { EditFamily } from "../family/Editor";
import { Families } from "../family/Families";
import { FamilyPage } from "../family/FamilyPage";
import { NewFamily } from "../family/NewFamily";
import { Welcome } from "../yard/Welcome";
import { Yard } from "../yard/Yard";
import { DriveScreens } from "./DriveScreens";
import { useEnterMoves } from "./enter";
import { useEvents } from "./events";
import { Failed } from "./Failed";
import { Here } from "./place";

export function App() {
  useEvents();
  useEnterMoves();
  const { pathname } = useLocation();
  return (
    <Here empty={<Welcome />}>
      <Failed key={pathname.split("/", 3).join("/")}>
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
      </Failed>
    </Here>
  );
}
