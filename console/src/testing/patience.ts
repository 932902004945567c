import { configure } from "@testing-library/react";

/** On a machine that is busy with other work a page may take long to draw; who waits for something waits so many milliseconds. */
configure({ asyncUtilTimeout: 20_000 });
