package shoptest

import (
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"
)

// Copied adds n copies of rows of a table, with what is to be another in each: k stands
// for the copy's number, o for the row that it is of.
func Copied(db *gorm.DB, table, where string, n int, other map[string]string) error {
	var columns []string
	if err := db.Raw(`select column_name from information_schema.columns where table_name = ?
		and is_generated = 'NEVER'`,
		table).Scan(&columns).Error; err != nil {
		return err
	}
	from := slices.Clone(columns)
	for i, c := range from {
		if as, is := other[c]; is {
			from[i] = as
		} else {
			from[i] = "o." + c
		}
	}
	return db.Exec(
		fmt.Sprintf(
			`insert into %s (%s) overriding system value select %s from %s o, generate_series(1, %d) k where %s`,
			table,
			strings.Join(columns, ", "),
			strings.Join(from, ", "),
			table,
			n,
			where,
		),
	).Error
}

// MoreBuilds adds copies of every build under way, with all that was recorded of it but its
// entries in the log, and tells how many there are then.
func MoreBuilds(db *gorm.DB, each int) (open int64, err error) {
	var ids []int64
	if err := db.Raw(`select id from builds where done_at is null order by id`).Scan(&ids).Error; err != nil {
		return 0, err
	}
	base := int64(1_000_000)
	for _, id := range ids {
		base += 10_000
		at, of := fmt.Sprintf("%d + k", base), fmt.Sprintf("o.build_id = %d", id)
		key := func(column, as string) map[string]string {
			return map[string]string{"build_id": at, "id": fmt.Sprintf("(%d + k) * 1000 + o.id", base), column: as}
		}
		copies := map[string]map[string]string{
			"cut_plies":   key("code", fmt.Sprintf("'C-%d-' || k || '-' || o.id", base)),
			"ply_records": key("cut_ply_id", fmt.Sprintf("(%d + k) * 1000 + o.cut_ply_id", base)),
		}
		for _, table := range []string{"debulks", "marks", "leak_checks", "operation_lines", "kit_counts"} {
			copies[table] = key("build_id", at)
		}
		for _, table := range []string{"bags", "run_builds"} {
			copies[table] = map[string]string{"build_id": at}
		}
		if err := Copied(db, "builds", fmt.Sprintf("o.id = %d", id), each, map[string]string{
			"id": at, "code": fmt.Sprintf("'B-%d-' || k", base), "serial": "'more ' || k",
		}); err != nil {
			return 0, err
		}
		for _, table := range []string{
			"cut_plies", "ply_records", "debulks", "marks", "leak_checks", "operation_lines", "kit_counts", "bags",
			"run_builds",
		} {
			if err := Copied(db, table, of, each, copies[table]); err != nil {
				return 0, fmt.Errorf("%s: %w", table, err)
			}
		}
	}
	if err := db.Exec("analyze").Error; err != nil {
		return 0, err
	}
	err = db.Raw(`select count(*) from builds where done_at is null`).Scan(&open).Error
	return open, err
}
