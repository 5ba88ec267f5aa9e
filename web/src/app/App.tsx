import { Navigate, Route, Routes } from "react-router";
import { EditFamily } from "../family/Editor";
import { Families } from "../family/Families";
import { FamilyPage } from "../family/FamilyPage";
import { NewFamily } from "../family/NewFamily";
import { Welcome } from "../yard/Welcome";
import { Yard } from "../yard/Yard";
import { DriveScreens } from "./DriveScreens";
import { useEvents } from "./events";
import { Here } from "./place";

export function App() {
  useEvents();
  return (
    <Here empty={<Welcome />}>
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
    </Here>
  );
}
