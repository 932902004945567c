package org.holtra.service.kinds.file;

import java.io.IOException;
import java.nio.file.DirectoryStream;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.nio.file.attribute.BasicFileAttributes;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;

/**
 * A file of the folder that an inlet reads.
 *
 * @param key of the file on its disk
 */
record FoundFile(Path path, String key, long size, Instant modified) {

    /** A folder with more than these is not read: too much would have to be remembered. */
    static final int MOST = 5_000;

    String name() {
        return path.getFileName().toString();
    }

    /**
     * The files whose names are like a pattern, the one changed longest ago first.
     *
     * @param pattern a glob
     * @throws TooMany if there are more than can be remembered
     */
    static List<FoundFile> in(Path folder, String pattern) throws IOException, TooMany {
        List<FoundFile> found = new ArrayList<>();
        try (DirectoryStream<Path> files = Files.newDirectoryStream(folder, pattern)) {
            for (Path file : files) {
                look(file, found);
                if (found.size() > MOST) {
                    throw new TooMany();
                }
            }
        }
        found.sort(Comparator.comparing(FoundFile::modified).thenComparing(FoundFile::name));
        return found;
    }

    private static void look(Path file, List<FoundFile> found) throws IOException {
        try {
            BasicFileAttributes its = Files.readAttributes(file, BasicFileAttributes.class);
            if (its.isRegularFile() && !file.getFileName().toString().startsWith(".")) {
                found.add(new FoundFile(
                        file,
                        String.valueOf(its.fileKey()),
                        its.size(),
                        its.lastModifiedTime().toInstant()));
            }
        } catch (NoSuchFileException e) {
            // It was there a moment ago, and somebody took it away; the next look finds it gone.
        }
    }

    /** More files than can be remembered. */
    static final class TooMany extends Exception {

        private static final long serialVersionUID = 1L;

        TooMany() {
            super("there are more than " + MOST
                    + " files like it; have files moved away once they are read (`after: move`)");
        }
    }
}
