package org.holtra.service.cluster;

import java.util.List;
import java.util.UUID;

/** What nodes have in their hands, and what becomes of it when they are gone. Within the caller's transaction. */
public interface WorkOfNodes {

    /** What these nodes have in their hands is nobody's and due from now on. Says for which outlets. */
    List<String> free(List<UUID> nodes);

    /** The same for what belongs to a node that is not there. */
    List<String> freeOrphans();
}
