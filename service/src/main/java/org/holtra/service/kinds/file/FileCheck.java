package org.holtra.service.kinds.file;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckStep.Result;

/** Looks whether an outlet's folder may be used, and can be written. */
record FileCheck(FileRoot root) {

    List<CheckStep> run(String name) {
        List<CheckStep> steps = new ArrayList<>();
        long began = System.nanoTime();
        Path folder;
        try {
            folder = root.folder(name);
            steps.add(new CheckStep("folder allowed", Result.PASSED, folder.toString(), null, micros(began)));
        } catch (RuntimeException e) {
            steps.add(new CheckStep(
                    "folder allowed",
                    Result.FAILED,
                    String.valueOf(e.getMessage()),
                    "Name a folder beneath that of HOLTRA_FILES.",
                    micros(began)));
            return steps;
        }
        began = System.nanoTime();
        try {
            Files.createDirectories(folder);
            Files.delete(Files.createTempFile(folder, ".check", null));
            steps.add(new CheckStep("writable", Result.PASSED, "a file was written and deleted", null, micros(began)));
        } catch (IOException e) {
            steps.add(new CheckStep(
                    "writable",
                    Result.FAILED,
                    e.toString(),
                    "Let the account that the service runs as write there.",
                    micros(began)));
        }
        return steps;
    }

    private static long micros(long began) {
        return (System.nanoTime() - began) / 1_000;
    }
}
