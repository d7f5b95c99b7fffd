import { Link, Navigate, Route, Routes } from "react-router";
import { Shelf } from "./shelf/Shelf";
import { lazily } from "../design/lazily";

const Workbench = lazily(() => import("./Workbench"), <p className="p-4 faint">Opening…</p>);

export function App() {
  return (
    <Routes>
      <Route path="/" element={<Shelf />} />
      <Route path="/build/:id" element={<Navigate to="loads" replace />} />
      <Route path="/build/:id/:station" element={<Workbench />} />
      <Route
        path="*"
        element={
          <main className="shelf-page p-5">
            <h1>There is nothing here.</h1>
            <p>
              The address is wrong, or what stood here is gone. <Link to="/">To the shelf of builds</Link>
            </p>
          </main>
        }
      />
    </Routes>
  );
}
