import { Navigate, Route, Routes } from "react-router";
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
        <Route path="/drives/:id" element={<Navigate to="plate" replace />} />
        <Route path="/drives/:id/:screen" element={<DriveScreens />} />
        <Route path="*" element={<Navigate to="/" replace />} />
      </Routes>
    </Here>
  );
}
