package dev.zabbet.junit;

import static org.junit.jupiter.api.Assertions.assertFalse;
import static org.junit.jupiter.api.Assertions.assertTrue;

import dev.zabbet.Stage;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import java.io.File;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What a project with an older or a newer JUnit sees: each version runs in a process of its own. */
class JUnitVersionsTest {
    private static final String TABLE = "CREATE TABLE hut (id INT PRIMARY KEY, beds INT NOT NULL CHECK (beds > 3));";

    @ParameterizedTest
    @ValueSource(strings = {"1.10.5", "1.12.2"})
    void withoutClassTemplates(String platform) throws Exception {
        String printed = run(platform, OneStageCase.class, TwoStagesCase.class);
        assertTrue(printed.contains("6 tests successful"), printed); // those of OneStageCase
        assertTrue(printed.contains("1 containers failed"), printed);
        assertTrue(
                printed.contains(
                        "ZabbetException: @EveryStage and @Counterproof need JUnit 5.13 or later. Take a newer JUnit, or"
                                + " @Staged, which runs the class on one stage, and the property zabbet.counterproof."),
                printed);
        assertFalse(printed.contains("NoClassDefFoundError"), printed);
        assertFalse(printed.contains("TypeNotPresentException"), printed);
    }

    @Test
    void withClassTemplates() throws Exception {
        String printed = run("1.14.4", OneStageCase.class, TwoStagesCase.class);
        assertTrue(printed.contains("8 tests successful"), printed);
        assertTrue(printed.contains("0 tests failed") && printed.contains("0 containers failed"), printed);
        assertTrue(printed.contains("in memory") && printed.contains("on H2"), printed);
    }

    private static String run(String platform, Class<?>... testClasses) throws Exception {
        String others = Arrays.stream(System.getProperty("java.class.path").split(File.pathSeparator))
                .filter(path -> !path.replace(File.separatorChar, '/')
                        .matches(".*/(org/junit|org/opentest4j|org/apiguardian)/.*"))
                .collect(Collectors.joining(File.pathSeparator));
        String root = System.getProperty("zabbet.repository.root");
        Path console = Path.of(
                root, "zabbet-junit/target/junit-versions/junit-platform-console-standalone-" + platform + ".jar");
        List<String> command = new ArrayList<>(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-jar",
                console.toString(),
                "execute",
                "--class-path",
                others,
                "--disable-banner",
                "--disable-ansi-colors"));
        for (Class<?> testClass : testClasses) {
            command.add("--select-class");
            command.add(testClass.getName());
        }
        Process process = new ProcessBuilder(command).redirectErrorStream(true).start();
        return new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8).replaceAll(" +", " ");
    }

    /** Not run by its name. */
    @Staged(sql = TABLE)
    static class OneStageCase {
        @Test
        void aRowIsStored(Stage stage) {
            Row hut = stage.add(Factory.forTable("hut").with("beds", 12));
            stage.expect("hut").holdsOnly(hut);
        }

        @Test
        void andTakenBack(Stage stage) {
            stage.expect("hut").empty();
        }

        @RepeatedTest(2)
        void again(Stage stage) {
            stage.act(() -> stage.add("hut")).expect().counts("hut", 1, 0, 0).nothingElse();
        }

        @Variations(2)
        void inVariations(Stage stage) {
            again(stage);
        }
    }

    @EveryStage(
            sql = TABLE,
            on = {"memory", "h2"})
    static class TwoStagesCase {
        @Test
        void aRowIsStored(Stage stage) {
            Row hut = stage.add(Factory.forTable("hut"));
            stage.expect("hut").holdsOnly(hut);
        }
    }
}
