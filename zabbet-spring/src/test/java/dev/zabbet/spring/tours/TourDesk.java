package dev.zabbet.spring.tours;

import java.util.List;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Plans tours. */
@Service
public class TourDesk {
    private final Tours tours;
    private final Walkers walkers;

    public TourDesk(Tours tours, Walkers walkers) {
        this.tours = tours;
        this.walkers = walkers;
    }

    /** Plans a tour with a leg to each place, in one call of the repository. */
    public Tour plan(String name, List<String> places) {
        Tour tour = new Tour(name, new Tour.Guide("Mika Dorn"));
        places.forEach(tour::walk);
        tour.getNotes().add(new Tour.Note("bring a rope"));
        tour.getTags().addAll(List.of("high", "long"));
        tour.getPrices().add(new Tour.Price("summer", 300));
        tour.permit("P-1");
        return tours.save(tour);
    }

    /** Changes all of a tour without saving it. */
    @Transactional
    public void change(long id) {
        Tour tour = tours.findById(id).orElseThrow();
        tour.getLegs().remove(0);
        tour.getLegs().get(0).setTo("Seehaus");
        tour.walk("Edelgrat");
        tour.getNotes().clear();
        tour.getTags().remove("long");
        tour.getPrices().add(new Tour.Price("winter", 450));
        tour.getGuide().setName("Ada Fink");
        tour.permit(null);
    }

    /** Lets a walker join. */
    @Transactional
    public void join(long id, long walker) {
        tours.findById(id)
                .orElseThrow()
                .getWalkers()
                .add(walkers.findById(walker).orElseThrow());
    }

    /** Has a walker leave for good. */
    public void leave(long walker) {
        walkers.deleteById(walker);
    }

    /** Tells whether a walker is there. */
    public boolean isThere(long walker) {
        return walkers.findById(walker).isPresent();
    }

    /** Tells on how many tours a walker is. */
    @Transactional(readOnly = true)
    public int toursOf(long walker) {
        return walkers.findById(walker).orElseThrow().getTours().size();
    }

    /** Finds the same tour in two ways, and renames it in one. */
    @Transactional
    public String renameTwice(long id, String name) {
        Tour first = tours.findById(id).orElseThrow();
        first.setName(name + "!");
        Tour second = tours.findByGuide_NameOrderByName("Ada Fink").get(0);
        second.setName(name);
        return first.getName();
    }

    /** Gives a tour up. */
    @Transactional
    public void giveUp(String name) {
        tours.deleteByName(name);
    }
}
