package org.holtra.service.kinds.file;

import java.io.IOException;
import java.nio.file.DirectoryStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.holtra.core.setup.Inlet;
import org.holtra.service.connections.CheckStep;
import org.holtra.service.connections.CheckSteps;

/** Looks whether a folder may be used, and can be read or written. */
final class FileCheck {

    private static final String ACCESS = "Let the account that the service runs as read and write there.";

    private final FileRoot root;
    private final CheckSteps steps = new CheckSteps();

    FileCheck(FileRoot root) {
        this.root = root;
    }

    /** Whether an outlet can write to a folder. Makes the folder if it is not there. */
    List<CheckStep> outlet(String name) {
        Path folder = allowed(name);
        if (folder != null) {
            try {
                Files.createDirectories(folder);
                write(folder);
            } catch (IOException e) {
                steps.failed("writable", e.toString(), ACCESS);
            }
        }
        return steps.all();
    }

    /** Whether an inlet can read its folder, and take away what it has read where it is to. */
    List<CheckStep> inlet(Inlet inlet) {
        Path folder = allowed(String.valueOf(inlet.at().get("folder")));
        if (folder == null) {
            return steps.all();
        }
        if (!Files.isDirectory(folder)) {
            steps.uncertain("folder there", folder + " is not there yet", "It is read once it is there.");
            return steps.all();
        }
        try {
            steps.passed("readable", files(folder, FileSource.pattern(inlet)));
            Object after = inlet.at().get("after");
            if ("move".equals(after) || "delete".equals(after)) {
                write(folder);
            }
        } catch (IOException e) {
            steps.failed(steps.all().size() == 1 ? "readable" : "writable", e.toString(), ACCESS);
        }
        return steps.all();
    }

    private static String files(Path folder, String pattern) throws IOException {
        long count = 0;
        try (DirectoryStream<Path> found = Files.newDirectoryStream(folder, pattern)) {
            for (Path file : found) {
                count += Files.isRegularFile(file) ? 1 : 0;
            }
        }
        return count == 1 ? "1 file fits " + pattern : count + " files fit " + pattern;
    }

    private Path allowed(String name) {
        try {
            Path folder = root.folder(name);
            steps.passed("folder allowed", folder.toString());
            return folder;
        } catch (RuntimeException e) {
            steps.failed(
                    "folder allowed", String.valueOf(e.getMessage()), "Name a folder beneath that of HOLTRA_FILES.");
            return null;
        }
    }

    private void write(Path folder) throws IOException {
        Files.delete(Files.createTempFile(folder, ".check", null));
        steps.passed("writable", "a file was written and deleted");
    }
}
