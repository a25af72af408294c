package dev.zabbet.files;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.extract.Extract;
import dev.zabbet.extract.Masking;
import dev.zabbet.files.internal.RulesReader;
import dev.zabbet.seed.Seed;
import java.util.List;
import java.util.Map;

/**
 * What a team has decided about personal columns, in a file that is versioned with the code:
 *
 * <pre>
 * keep: [hut.name, "*.country"]
 * mask: [audit.actor, guest.profile.nickname]
 * without: [guest.photo]
 * ref: {hut.amenities.wardenId: warden}
 * keepDomains: false
 * </pre>
 *
 * Immutable and thread-safe.
 */
public final class MaskingRules {
    private final Map<String, List<String>> said;
    private final Map<String, String> refs;
    private final boolean keepDomains;

    private MaskingRules(Map<String, List<String>> said, Map<String, String> refs, boolean keepDomains) {
        this.said = said;
        this.refs = refs;
        this.keepDomains = keepDomains;
    }

    /**
     * Reads rules.
     *
     * @param file a file in YAML or JSON, or a resource on the class path
     * @return the rules
     * @throws ZabbetException if it is not found or cannot be read; the message says where
     */
    public static MaskingRules read(String file) {
        RulesReader reader = RulesReader.read(file, Seed.text(file));
        return new MaskingRules(reader.lists(), reader.refs(), reader.keepDomains());
    }

    /**
     * {@return masking that follows these rules, too}
     *
     * @param masking the masking without them
     */
    public Masking over(Masking masking) {
        Masking all = masking.keep(columns("keep")).mask(columns("mask"));
        return keepDomains ? all.keepDomains() : all;
    }

    /**
     * {@return an extract without the columns that these rules leave out, which follows the references in documents that they name}
     *
     * @param extract the extract with them
     */
    public Extract over(Extract extract) {
        Extract all = extract.without(columns("without"));
        for (Map.Entry<String, String> ref : refs.entrySet()) {
            all = all.ref(ref.getKey(), ref.getValue());
        }
        return all;
    }

    private String[] columns(String what) {
        return said.getOrDefault(what, List.of()).toArray(String[]::new);
    }
}
