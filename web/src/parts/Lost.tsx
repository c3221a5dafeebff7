import { Link } from "react-router";

export function Lost() {
  return (
    <main className="p-8">
      <h1 className="text-xl font-bold">Nothing at this address</h1>
      <p className="mt-2">
        <Link to="/" className="underline">
          Back to the shelf
        </Link>
      </p>
    </main>
  );
}
