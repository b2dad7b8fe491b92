package deftlens.server.views;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.springframework.data.jpa.repository.Query;
import org.springframework.data.repository.Repository;

interface ViewStore extends Repository<ViewEntity, Long> {
    ViewEntity saveAndFlush(ViewEntity view);

    Optional<ViewEntity> findById(long id);

    @Query("""
            select v from ViewEntity v left join fetch v.shares
            where v.deletedAt is null
            order by lower(v.name), v.id""")
    List<ViewEntity> everyView();

    @Query("""
            select v from ViewEntity v left join fetch v.shares
            where v.deletedAt is null and (v.ownerId = :person or exists (
                select 1 from ViewEntity w join w.shares s where w = v and (
                    s.personId = :person or s.teamId in :teams or (s.personId is null and s.teamId is null))))
            order by lower(v.name), v.id""")
    List<ViewEntity> openTo(long person, List<Long> teams);

    @Query("""
            select v from ViewEntity v
            where v.deletedAt is null and v.ownerId = :person and lower(v.name) = lower(:name)""")
    Optional<ViewEntity> named(long person, String name);

    int countByOwnerIdAndDeletedAtIsNull(long ownerId);

    @Query("select v from ViewEntity v where v.deletedAt is null and v.ownerId = :person order by v.id")
    List<ViewEntity> ownedBy(long person);

    @Query("""
            select v from ViewEntity v
            where v.deletedAt is not null and v.deletedAt > :since
            order by v.deletedAt desc""")
    List<ViewEntity> deleted(Instant since);

    @Query("""
            select v from ViewEntity v
            where v.deletedAt is not null and v.deletedAt > :since and v.ownerId = :person
            order by v.deletedAt desc""")
    List<ViewEntity> deletedBy(long person, Instant since);

    /** All views over a register, those that can be brought back included. */
    @Query("select distinct v from ViewEntity v left join fetch v.shares where v.registerKey = :register order by v.id")
    List<ViewEntity> over(String register);

    /** All views over other registers, those that can be brought back included. */
    @Query(
            "select distinct v from ViewEntity v left join fetch v.shares where v.registerKey <> :register order by v.id")
    List<ViewEntity> besides(String register);

    @Query("select v from ViewEntity v where v.deletedAt <= :until order by v.id")
    List<ViewEntity> deletedUntil(Instant until);

    void delete(ViewEntity view);
}
