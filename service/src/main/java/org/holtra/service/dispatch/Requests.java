package org.holtra.service.dispatch;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.holtra.core.delivery.Batch;
import org.holtra.core.shape.Content;

/** Makes requests of deliveries: what is alike but for its body goes together, and no message goes before one that it follows. */
final class Requests {

    /** Deliveries that are alike. */
    private static final class Group {
        private final Object likeness;
        private final List<Attempter.Ready> members = new ArrayList<>();

        private Group(Object likeness) {
            this.likeness = likeness;
        }
    }

    private final Batch batch;

    Requests(Batch batch) {
        this.batch = batch;
    }

    List<List<Attempter.Ready>> of(List<Attempter.Ready> ready) {
        List<List<Attempter.Ready>> requests = new ArrayList<>();
        groups(ready).forEach(group -> requests.addAll(cut(group)));
        return requests;
    }

    private static List<Group> groups(List<Attempter.Ready> ready) {
        List<Group> groups = new ArrayList<>();
        Map<Task.Order, Integer> last = new HashMap<>();
        for (Attempter.Ready one : ready) {
            Optional<Task.Order> order = one.task().order();
            int at = find(groups, likeness(one), order.map(last::get).orElse(0));
            groups.get(at).members.add(one);
            order.ifPresent(its -> last.put(its, at));
        }
        return groups;
    }

    /** The place of the group of this likeness, from a place on; it is made if there is none. */
    private static int find(List<Group> groups, Object likeness, int from) {
        for (int at = from; at < groups.size(); at++) {
            if (groups.get(at).likeness.equals(likeness)) {
                return at;
            }
        }
        groups.add(new Group(likeness));
        return groups.size() - 1;
    }

    /** What stood together when nobody answered stays together; else a request holds so many bytes. */
    private List<List<Attempter.Ready>> cut(Group group) {
        if (place(group.members.getFirst()).isPresent()) {
            group.members.sort(
                    Comparator.comparing(one -> place(one).orElseThrow().number()));
            return List.of(group.members);
        }
        List<List<Attempter.Ready>> requests = new ArrayList<>();
        List<Attempter.Ready> request = new ArrayList<>();
        long bytes = 0;
        for (Attempter.Ready one : group.members) {
            int more = one.content().body().length;
            if (!request.isEmpty() && bytes + more > batch.bytes()) {
                requests.add(request);
                request = new ArrayList<>();
                bytes = 0;
            }
            request.add(one);
            bytes += more;
        }
        requests.add(request);
        return requests;
    }

    private static Object likeness(Attempter.Ready one) {
        Optional<FrozenContent.Place> place = place(one);
        if (place.isPresent()) {
            return place.get().batch();
        }
        var part = one.task().delivery().owed().part();
        boolean says = part.correction() != 0 || part.replay() != null || part.late();
        Content content = one.content();
        return says
                ? one.task().delivery().id()
                : List.of(
                        content.envelope(),
                        String.valueOf(content.contentType()),
                        Optional.ofNullable(one.presented()),
                        one.task().delivery().message().simulated());
    }

    private static Optional<FrozenContent.Place> place(Attempter.Ready one) {
        return FrozenContent.place(one.task().delivery().owed().frozen());
    }
}
