package dev.zabbet.cli;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.Masking;
import dev.zabbet.files.MaskingRules;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** What becomes of personal values. */
final class MaskingOptions {
    @Option(
            names = "--keep",
            paramLabel = "COLUMN",
            split = ",",
            description = "Keeps a column as it is: hut.name, '*.country'.")
    private List<String> keep = new ArrayList<>();

    @Option(
            names = "--mask",
            paramLabel = "COLUMN",
            split = ",",
            description = "Masks a column, whatever it looks like.")
    private List<String> mask = new ArrayList<>();

    @Option(
            names = "--rules",
            paramLabel = "FILE",
            description =
                    "What was decided before: keep, mask and without, each with a list of columns, in YAML or JSON.")
    private @Nullable String rules;

    @Option(
            names = "--keep-domains",
            description = "Keeps the domains of E-mail addresses; mail to them reaches somebody.")
    private boolean keepDomains;

    @Option(
            names = "--secret-file",
            paramLabel = "FILE",
            description =
                    "Where the secret is that replacements follow from; without it, the environment's ZABBET_MASK_SECRET, or"
                            + " else .zabbet/mask-secret at home, made when it is first needed.")
    private @Nullable Path secretFile;

    @Option(
            names = "--unmasked",
            paramLabel = "DATABASE",
            description = "Masks nothing, if that is the database's own name.")
    private @Nullable String unmasked;

    /** @param told takes a line if a secret was made */
    Masking masking(Consumer<String> told) {
        if (unmasked != null) {
            if (!keep.isEmpty() || !mask.isEmpty() || rules != null || keepDomains || secretFile != null) {
                throw new ZabbetException(
                        "--unmasked masks nothing. Leave out --keep, --mask, --rules, --keep-domains and"
                                + " --secret-file.");
            }
            return Masking.unmasked(unmasked);
        }
        Path chosen = secretFile;
        Path file = chosen == null ? Masking.standardFile() : chosen;
        boolean known = Files.exists(file)
                || (chosen == null
                        && !Optional.ofNullable(System.getenv(Masking.VARIABLE))
                                .orElse("")
                                .isEmpty());
        Masking masking = chosen == null ? Masking.standard() : Masking.withSecretOf(chosen);
        if (!known) {
            told.accept("A secret for masking was made: " + file + ". With another one all replacements are others.");
        }
        masking = masking.keep(keep.toArray(String[]::new)).mask(mask.toArray(String[]::new));
        masking = keepDomains ? masking.keepDomains() : masking;
        return rules == null ? masking : MaskingRules.read(rules).over(masking);
    }

    Extract over(Extract extract) {
        return rules == null ? extract : MaskingRules.read(rules).over(extract);
    }
}
