package dev.zabbet.spring.huts;

import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Books and cancels stays. */
@Service
public class FrontDesk {
    private final Huts huts;
    private final Stays stays;
    private final Letters letters;

    public FrontDesk(Huts huts, Stays stays, Letters letters) {
        this.huts = huts;
        this.stays = stays;
        this.letters = letters;
    }

    /** Books some nights. */
    @Transactional
    public Stay book(long hut, String guest, int nights) {
        return stays.save(new Stay(huts.getReferenceById(hut), guest, nights));
    }

    /** Cancels a stay. */
    @Transactional
    public void cancel(long stay) {
        stays.findById(stay).orElseThrow().cancel();
    }

    /** Cancels a stay, and fails before its transaction ends. */
    @Transactional
    public void cancelAndFail(long stay) {
        cancel(stay);
        throw new IllegalStateException("the line is dead");
    }

    /** Cancels a stay and tells the guest. */
    @Transactional
    public void cancelAndTell(long stay) {
        cancel(stay);
        letters.write("Stay " + stay + " is cancelled.");
    }
}
